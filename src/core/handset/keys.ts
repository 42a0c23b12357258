import type { KeysWay } from '../ways/way-kinds';
import { ownWay } from './own-ways';
import type { HandsetProfile, Mode } from './state';

export type Key = 'power' | 'up' | 'down';
export const KEYS: readonly Key[] = ['power', 'up', 'down'];

/** When each held key went down, in milliseconds of one clock. */
export type HeldKeys = Readonly<Partial<Record<Key, number>>>;

export type KeyAction =
  | 'power-on'
  | 'power-off'
  | 'enter-bootloader'
  | 'enter-recovery'
  | 'enter-download'
  | 'unlock-chord'
  | 'menu-up'
  | 'menu-down'
  | 'menu-choose'
  | 'allow-root'
  | 'deny-root';

/** How long Power alone is held to start it, in milliseconds. */
export const START_MS = 1000;
/** Power, held for so long with whatever else, cuts the handset off, whatever it is at; in milliseconds. */
export const CUTS_OFF_MS = 10_000;
/** Keys are said with some time to spare: they act after this share of it. */
const ENOUGH = 0.75;
export const leastMs = ({ seconds }: KeysWay) => seconds * 1000 * ENOUGH;

/** How long exactly these keys are held, from the last one that went down; 0 where it is not these. */
function heldMs(held: HeldKeys, keys: readonly string[], nowMs: number): number {
  const down = KEYS.filter((key) => held[key] !== undefined);
  return down.length === keys.length && down.every((key) => keys.includes(key))
    ? nowMs - Math.max(...down.map((key) => held[key]!))
    : 0;
}

const FROM_DARK = [
  ['keys-bootloader', 'enter-bootloader'],
  ['keys-recovery', 'enter-recovery'],
  ['keys-download', 'enter-download'],
] as const;

/**
 * What keys that are still held do at `nowMs` on a handset with these ways, or null. Keys count from the one
 * that went down last, and only while no other is held.
 */
export function heldAction(
  profile: Pick<HandsetProfile, 'ownWays'>,
  mode: Mode,
  held: HeldKeys,
  nowMs: number,
): KeyAction | null {
  const holds = (way: KeysWay, least = leastMs(way)) => heldMs(held, way.keys, nowMs) >= least;
  if (mode === 'off') {
    const chord = FROM_DARK.find(([id]) => holds(ownWay(profile, id)));
    return chord?.[1] ?? (heldMs(held, ['power'], nowMs) >= START_MS ? 'power-on' : null);
  }
  const loop = ownWay(profile, 'keys-loop');
  if (mode === 'looping' && holds(loop)) return 'enter-bootloader';
  if (mode === 'looping' && holds(ownWay(profile, 'keys-recovery'), leastMs(loop))) return 'enter-recovery';
  if (mode === 'download' && holds(ownWay(profile, 'keys-unlock'))) return 'unlock-chord';
  return mode !== 'dead' && mode !== 'starting' && holds(ownWay(profile, 'keys-off')) ? 'power-off' : null;
}

/** Power is held far too long: a handset that is on goes off, in the middle of anything. */
export const heldTooLong = (mode: Mode, held: HeldKeys, nowMs: number): boolean =>
  mode !== 'off' && mode !== 'dead' && held.power !== undefined && nowMs - held.power >= CUTS_OFF_MS;

/** Modes whose screen is a menu: volume keys move, power chooses. */
const MENU_MODES: readonly Mode[] = ['bootloader', 'recovery', 'userspace', 'sideload', 'download'];

/** What a key that was let go after a short press does. */
export function pressAction(mode: Mode, key: Key, rootAsked: boolean): KeyAction | null {
  if (MENU_MODES.includes(mode))
    return key === 'up' ? 'menu-up' : key === 'down' ? 'menu-down' : 'menu-choose';
  if (mode === 'system' && rootAsked)
    return key === 'up' ? 'allow-root' : key === 'down' ? 'deny-root' : null;
  return null;
}
