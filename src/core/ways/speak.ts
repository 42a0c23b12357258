import { upperFirst } from '../words/sentence';
import type { HandKey, KeysWay, MenuMoves, Way, WayId, Ways } from './way-kinds';
import type { WAYS } from './way-kinds';

/*
 * A model's ways in sentences. What was read, seen or said is said as it is; of a guess, and of nothing, only in
 * general words.
 */

export type KeysId = Extract<WayId, `keys-${string}`>;
export type LineId = Extract<WayId, `line-${string}`>;
export type TextId = Exclude<
  { [K in WayId]: (typeof WAYS)[K]['form'] extends 'text' ? K : never }[WayId],
  undefined
>;

const KEY_NAMES: Readonly<Record<HandKey, string>> = {
  power: 'Power',
  up: 'Volume up',
  down: 'Volume down',
  home: 'Home',
};
export const keyName = (key: HandKey) => KEY_NAMES[key];

/** "Volume down and Power"; the key that goes down first stands first. */
const ORDER: readonly HandKey[] = ['up', 'down', 'home', 'power'];
const inOrder = ({ keys }: KeysWay) => ORDER.filter((key) => keys.includes(key));
export const keyNames = (way: KeysWay) => inOrder(way).map(keyName);
const together = (names: readonly string[]) =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
export const secondsWords = (seconds: number) => `${seconds} ${seconds === 1 ? 'second' : 'seconds'}`;

export const isKnown = <V>(way: Way<V> | null): way is Way<V> => way !== null && way.sureness !== 'guessed';

/** "hold Volume down and Power for 2 seconds"; in general words where nobody has seen it. */
const GENERAL_KEYS: Readonly<Record<KeysId, string>> = {
  'keys-off': 'hold its power key until the screen is dark',
  'keys-bootloader': 'start it with the keys of its bootloader',
  'keys-recovery': 'start it with the keys of its recovery',
  'keys-download': 'start it with the keys of its download mode',
  'keys-loop': 'hold the keys that lead out of a loop into its bootloader',
  'keys-unlock': 'hold the keys that ask to unlock',
};
export function hold(ways: Ways, id: KeysId): string {
  const way = ways(id);
  if (!isKnown(way)) return GENERAL_KEYS[id];
  const { seconds, cable } = way.value;
  return `hold ${together(keyNames(way.value))} for ${secondsWords(seconds)}${cable === true ? ' with the cable in' : ''}`;
}
export const holdFirst = (ways: Ways, id: KeysId) => upperFirst(hold(ways, id));

/** Off, until the screen is dark. */
export function darkFirst(ways: Ways): string {
  const way = ways('keys-off');
  return isKnown(way)
    ? `Hold ${together(keyNames(way.value))} until the screen is dark.`
    : 'Switch it off, until the screen is dark.';
}

const GENERAL_LINES: Readonly<Record<LineId, string>> = {
  'line-start': 'the line that starts the system',
  'line-recovery': 'the line that leads into recovery',
  'line-userspace': 'the line that leads into user-space flashing',
  'line-sideload': 'the line that waits for a package from the computer',
  'line-install': 'the line that installs a package',
  'line-cache': 'the line that erases the cache alone',
  'line-keep-storage': 'the line that erases apps and settings and keeps the storage',
  'line-erase': 'the line that erases everything',
  'line-format': 'the line that formats data',
  'line-unlock': 'the line that unlocks',
  'line-lock': 'the line that locks',
};
/** “Recovery”, or what the line is for. */
export function line(ways: Ways, id: LineId): string {
  const way = ways(id);
  return isKnown(way) ? `“${way.value}”` : GENERAL_LINES[id];
}
export const choose = (ways: Ways, id: LineId) => `choose ${line(ways, id)}`;

/** What stands there, or what is said in general. */
export function told(ways: Ways, id: TextId, general: string): string {
  const way = ways(id);
  return isKnown(way) ? way.value : general;
}

/** “Its name”, where somebody said it; else what it is. */
export function quoted(ways: Ways, id: TextId, general: string): string {
  const name = told(ways, id, '');
  return name === '' ? general : `“${name}”`;
}

const MOVES: Readonly<Record<MenuMoves, string>> = {
  keys: ': the volume keys move, Power chooses',
  touch: ': it is touched',
  both: ': touch it, or move with the volume keys and choose with Power',
};
/** How a line is chosen, as the end of a sentence; nothing where nobody said. */
export function byMenu(ways: Ways): string {
  const way = ways('menu-moves');
  return isKnown(way) ? MOVES[way.value] : '';
}

/** Keys to hold, how long, what shows then, and the nearest wrong ones. */
export interface KeyCard {
  readonly way: KeysId;
  readonly keys: readonly string[];
  readonly hold: string;
  readonly shows: string;
  readonly wrong: string;
  /** Nobody has seen it on this model: it is often so on handsets of its class. */
  readonly guess: boolean;
}

const LEADS: Readonly<Partial<Record<KeysId, string>>> = {
  'keys-bootloader': 'is the bootloader',
  'keys-recovery': 'is the recovery',
  'keys-download': 'is download mode',
  'keys-unlock': 'asks to unlock: choose the line that leaves it locked',
};
const apart = (one: KeysWay, other: KeysWay) =>
  [...one.keys, ...other.keys].filter((key) => one.keys.includes(key) !== other.keys.includes(key)).length;

/** The nearest other keys that somebody has seen, and where they lead. */
function nearestWrong(ways: Ways, id: KeysId, own: KeysWay): string | null {
  const others = (Object.keys(LEADS) as KeysId[]).flatMap((other) => {
    const way = ways(other);
    return other === id || !isKnown(way) || apart(own, way.value) === 0 ? [] : [{ other, value: way.value }];
  });
  const nearest = others.sort((a, b) => apart(own, a.value) - apart(own, b.value))[0];
  return nearest ? `${together(keyNames(nearest.value))} ${LEADS[nearest.other]}.` : null;
}

const ALONE =
  'Power alone, from dark, starts the system on most handsets: nothing is lost, switch it off again.';

/** @returns null where not even the class has a guess */
export function keyCard(
  ways: Ways,
  id: KeysId,
  { shows, then = '', wrong }: { readonly shows: string; readonly then?: string; readonly wrong?: string },
): KeyCard | null {
  const way = ways(id);
  if (way === null) return null;
  const { seconds, cable } = way.value;
  const near = nearestWrong(ways, id, way.value);
  return {
    way: id,
    keys: keyNames(way.value),
    hold: `${seconds} s${id === 'keys-loop' || id === 'keys-unlock' ? '' : ', from dark'}${cable === true ? ', cable in' : ''}${then}`,
    shows,
    wrong: wrong ?? near ?? ALONE,
    guess: way.sureness === 'guessed',
  };
}
