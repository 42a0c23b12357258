import type { Mode } from './state';

export type Key = 'power' | 'up' | 'down';
export const KEYS: readonly Key[] = ['power', 'up', 'down'];

/** When each held key went down, in milliseconds of one clock. */
export type HeldKeys = Readonly<Partial<Record<Key, number>>>;

export type KeyAction = 'power-on' | 'power-off' | 'enter-bootloader' | 'menu-up' | 'menu-down' | 'menu-choose' | 'allow-root' | 'deny-root';

/** How long the keys are held, in milliseconds. */
export const HOLD_MS = { start: 1000, bootloaderFromOff: 1500, off: 3000, bootloaderFromLoop: 3000 } as const;

/**
 * What keys that are still held do at `nowMs`, or null. The chord counts from the later key; power alone only while no other key is held.
 */
export function heldAction(mode: Mode, held: HeldKeys, nowMs: number): KeyAction | null {
  const { power, down, up } = held;
  if (power === undefined) return null;
  const chordMs = down === undefined || up !== undefined ? 0 : nowMs - Math.max(power, down);
  const aloneMs = down === undefined && up === undefined ? nowMs - power : 0;
  if (mode === 'off') {
    if (chordMs >= HOLD_MS.bootloaderFromOff) return 'enter-bootloader';
    return aloneMs >= HOLD_MS.start ? 'power-on' : null;
  }
  if (mode === 'looping') {
    if (chordMs >= HOLD_MS.bootloaderFromLoop) return 'enter-bootloader';
    return aloneMs >= HOLD_MS.off ? 'power-off' : null;
  }
  return (mode === 'system' || mode === 'bootloader') && aloneMs >= HOLD_MS.off ? 'power-off' : null;
}

/** What a key that was let go after a short press does. */
export function pressAction(mode: Mode, key: Key, rootAsked: boolean): KeyAction | null {
  if (mode === 'bootloader') return key === 'up' ? 'menu-up' : key === 'down' ? 'menu-down' : 'menu-choose';
  if (mode === 'system' && rootAsked) return key === 'up' ? 'allow-root' : key === 'down' ? 'deny-root' : null;
  return null;
}

/** The bootloader's menu, in order. */
export const BOOTLOADER_MENU = ['Start the system', 'Bootloader again', 'Power off'] as const;
