import { EternoError } from '../errors';
import type { HandsetFile, Listed, RootAnswer, SystemStatus } from './handset-link';

/*
 * The messages of the stand-in's system link, typed once for both ends: a JSON object on a line each way,
 * bytes behind it where `length` says so. `view`, `watch`, `key`, `touch`, `cable`, `other-cable`, `battery`,
 * `desk` (its maker's unlocking desk), `fault` and `force` are the stand-in's own panel: no real handset has
 * them.
 */

type None = Readonly<Record<never, never>>;
/**
 * What is asked and answered, by the word that asks. `bytes`: the question carries some, or the answer does.
 */
export interface SystemMessages {
  readonly listed: { readonly ask: None; readonly answer: Listed };
  readonly comings: { readonly ask: None; readonly answer: { readonly comings: number } };
  readonly props: { readonly ask: None; readonly answer: { readonly text: string } };
  readonly status: { readonly ask: None; readonly answer: SystemStatus };
  readonly root: { readonly ask: None; readonly answer: RootAnswer };
  readonly restart: {
    readonly ask: { readonly to: 'system' | 'bootloader' | 'recovery' };
    readonly answer: None;
  };
  readonly modules: {
    readonly ask: { readonly on: boolean; readonly only: readonly string[] };
    readonly answer: None;
  };
  readonly list: {
    readonly ask: { readonly path: string };
    readonly answer: { readonly files: readonly HandsetFile[] };
  };
  readonly 'install-package': { readonly ask: { readonly path: string }; readonly answer: None };
  readonly 'set-end': { readonly ask: { readonly keepData: boolean }; readonly answer: None };
  readonly read: {
    readonly ask: { readonly partition: string };
    readonly answer: { readonly length: number };
  };
  readonly pull: { readonly ask: { readonly path: string }; readonly answer: { readonly length: number } };
  readonly 'image-data': { readonly ask: None; readonly answer: { readonly length: number } };
  readonly write: {
    readonly ask: { readonly partition: string; readonly length: number };
    readonly answer: None;
  };
  readonly 'set-part': {
    readonly ask: { readonly partition: string; readonly length: number };
    readonly answer: None;
  };
  readonly push: { readonly ask: { readonly path: string; readonly length: number }; readonly answer: None };
  readonly sideload: { readonly ask: { readonly length: number }; readonly answer: None };
  readonly view: { readonly ask: None; readonly answer: { readonly view: object } };
  readonly watch: { readonly ask: None; readonly answer: { readonly view: object } };
  readonly key: { readonly ask: { readonly key: string; readonly down: boolean }; readonly answer: None };
  readonly touch: { readonly ask: { readonly id: string }; readonly answer: None };
  readonly cable: { readonly ask: { readonly connected: boolean }; readonly answer: None };
  readonly battery: { readonly ask: { readonly percent: number }; readonly answer: None };
  readonly fault: { readonly ask: { readonly fault: string }; readonly answer: None };
  readonly 'other-cable': { readonly ask: None; readonly answer: None };
  readonly desk: { readonly ask: { readonly text: string }; readonly answer: None };
  readonly force: {
    readonly ask: { readonly partition: string; readonly length: number };
    readonly answer: None;
  };
}
export type SystemWord = keyof SystemMessages;
/** A union where `W` is one. */
export type SystemAsk<W extends SystemWord> = {
  [Word in W]: { readonly do: Word } & SystemMessages[Word]['ask'];
}[W];
export type SystemAnswer<W extends SystemWord> = SystemMessages[W]['answer'];
export type AnyAsk = SystemAsk<SystemWord>;

type Kind = 'text' | 'flag' | 'number' | 'texts';
/** The fields of each question. */
const FIELDS: { readonly [W in SystemWord]: Readonly<Record<keyof SystemMessages[W]['ask'], Kind>> } = {
  listed: {},
  comings: {},
  props: {},
  status: {},
  root: {},
  restart: { to: 'text' },
  modules: { on: 'flag', only: 'texts' },
  list: { path: 'text' },
  'install-package': { path: 'text' },
  'set-end': { keepData: 'flag' },
  read: { partition: 'text' },
  pull: { path: 'text' },
  'image-data': {},
  write: { partition: 'text', length: 'number' },
  'set-part': { partition: 'text', length: 'number' },
  push: { path: 'text', length: 'number' },
  sideload: { length: 'number' },
  view: {},
  watch: {},
  key: { key: 'text', down: 'flag' },
  touch: { id: 'text' },
  cable: { connected: 'flag' },
  battery: { percent: 'number' },
  fault: { fault: 'text' },
  'other-cable': {},
  desk: { text: 'text' },
  force: { partition: 'text', length: 'number' },
};

const IS: Readonly<Record<Kind, (value: unknown) => boolean>> = {
  text: (value) => typeof value === 'string',
  flag: (value) => typeof value === 'boolean',
  number: (value) => typeof value === 'number' && Number.isFinite(value),
  texts: (value) => Array.isArray(value) && value.every((one) => typeof one === 'string'),
};

export const isSystemWord = (word: unknown): word is SystemWord =>
  typeof word === 'string' && Object.hasOwn(FIELDS, word);

/**
 * A question as it came.
 * @throws {EternoError} `bad-field` for what is none, `unsupported` for a word that is not known
 */
export function readAsk(request: Readonly<Record<string, unknown>>): AnyAsk {
  const word = request['do'];
  if (!isSystemWord(word)) throw new EternoError('unsupported', `the system link knows no "${String(word)}"`);
  for (const [field, kind] of Object.entries(FIELDS[word]))
    if (!IS[kind as Kind](request[field])) throw new EternoError('bad-field', `"${word}" wants ${field}`);
  return request as unknown as AnyAsk;
}
