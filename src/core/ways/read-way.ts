import { EternoError } from '../errors';
import type { HandKey, KeysWay, WayForm, WayId, WayKind, WayValue } from './way-kinds';
import { HAND_KEYS, WAYS } from './way-kinds';

/* A way that comes from outside: a form, the store, another Eterno's file. */

export const WAY_LIMITS = { text: 200, lines: 40, seconds: 120 } as const;

const wrong = (id: WayId, what: string) => new EternoError('bad-field', `${WAYS[id].label}: ${what}`);

function readText(id: WayId, value: unknown): string {
  const text = typeof value === 'string' ? value.trim() : '';
  if (text === '' || text.length > WAY_LIMITS.text || /[\p{Cc}\p{Cf}]/u.test(text))
    throw wrong(id, `a text of 1 to ${WAY_LIMITS.text} characters on one line.`);
  return text;
}

function readKeys(id: WayId, value: unknown): KeysWay {
  const told = (typeof value === 'object' && value !== null ? value : {}) as Partial<
    Record<keyof KeysWay, unknown>
  >;
  const keys = (Array.isArray(told.keys) ? told.keys : []) as unknown[];
  const known = HAND_KEYS.filter((key) => keys.includes(key)) as HandKey[];
  if (known.length === 0 || known.length !== keys.length) throw wrong(id, 'say which keys are held.');
  const { seconds } = told;
  if (typeof seconds !== 'number' || !(seconds > 0 && seconds <= WAY_LIMITS.seconds))
    throw wrong(id, `a time above 0 and up to ${WAY_LIMITS.seconds} seconds.`);
  return { keys: known, seconds, ...(told.cable === true ? { cable: true } : {}) };
}

function readList(id: WayId, value: unknown): string[] {
  const lines = (Array.isArray(value) ? value : []) as unknown[];
  if (lines.length === 0 || lines.length > WAY_LIMITS.lines)
    throw wrong(id, `1 to ${WAY_LIMITS.lines} lines.`);
  return lines.map((one) => readText(id, one));
}

function readChoice(id: WayId, value: unknown): string {
  const choices = Object.keys((WAYS[id] as WayKind).choices ?? {});
  const found = choices.find((choice) => choice === value);
  if (found === undefined) throw wrong(id, `one of ${choices.join(', ')}.`);
  return found;
}

const READERS: Readonly<Record<WayForm, (id: WayId, value: unknown) => WayValue>> = {
  keys: readKeys,
  text: readText,
  list: readList,
  choice: readChoice as (id: WayId, value: unknown) => WayValue,
};

/**
 * A value of a way, held against its kind: keys in one order and each once, texts trimmed and on one line.
 * @throws {EternoError} `bad-field`
 */
export const readWay = <K extends WayId>(id: K, value: unknown): WayValue<K> =>
  READERS[WAYS[id].form](id, value) as WayValue<K>;
