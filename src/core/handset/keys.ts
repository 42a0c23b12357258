import type { Mode } from './state';

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

/** How long the keys are held, in milliseconds. */
export const HOLD_MS = {
  start: 1000,
  chordFromOff: 1500,
  off: 3000,
  chordFromLoop: 3000,
  unlock: 3000,
} as const;

/** Chords of two keys: what they mean, whatever third key stays up. */
const CHORDS: readonly (readonly [Key, Key, Key, KeyAction])[] = [
  ['power', 'down', 'up', 'enter-bootloader'],
  ['power', 'up', 'down', 'enter-recovery'],
  ['up', 'down', 'power', 'enter-download'],
];

function chordAction(held: HeldKeys, nowMs: number, leastMs: number): KeyAction | null {
  for (const [first, second, not, action] of CHORDS) {
    const [a, b] = [held[first], held[second]];
    if (a !== undefined && b !== undefined && held[not] === undefined && nowMs - Math.max(a, b) >= leastMs)
      return action;
  }
  return null;
}

/** How long one key is held while no other is; 0 otherwise. */
function aloneMs(held: HeldKeys, key: Key, nowMs: number): number {
  const since = held[key];
  return since === undefined || Object.values(held).filter((value) => value !== undefined).length > 1
    ? 0
    : nowMs - since;
}

/**
 * What keys that are still held do at `nowMs`, or null. A chord counts from the later key; a key alone only
 * while no other key is held.
 */
export function heldAction(mode: Mode, held: HeldKeys, nowMs: number): KeyAction | null {
  if (mode === 'off')
    return (
      chordAction(held, nowMs, HOLD_MS.chordFromOff) ??
      (aloneMs(held, 'power', nowMs) >= HOLD_MS.start ? 'power-on' : null)
    );
  if (mode === 'looping') {
    const chord = chordAction(held, nowMs, HOLD_MS.chordFromLoop);
    if (chord !== null && chord !== 'enter-download') return chord;
  }
  if (mode === 'download' && aloneMs(held, 'up', nowMs) >= HOLD_MS.unlock) return 'unlock-chord';
  return mode !== 'dead' && mode !== 'starting' && aloneMs(held, 'power', nowMs) >= HOLD_MS.off
    ? 'power-off'
    : null;
}

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
