import type { WayValue, WayValues } from '../ways/way-kinds';
import type { HandsetProfile } from './state';

/* The keys and words of a simulated handset: a sheet like any other's, every line of it filled in. */

export const STAND_IN_WAYS = {
  'keys-off': { keys: ['power'], seconds: 4 },
  'keys-bootloader': { keys: ['power', 'down'], seconds: 2 },
  'keys-recovery': { keys: ['power', 'up'], seconds: 2 },
  'keys-download': { keys: ['up', 'down'], seconds: 2, cable: true },
  'keys-loop': { keys: ['power', 'down'], seconds: 4 },
  'keys-unlock': { keys: ['up'], seconds: 4 },
  'screen-bootloader': 'a plain screen that lists product, serial, slot and lock state',
  'screen-recovery': 'a menu with “Start the system” in its first line',
  'screen-download': 'a screen that says Download, with product and serial',
  'screen-sideload': 'a screen that waits for a package',
  'menu-moves': 'keys',
  'line-start': 'Start the system',
  'line-recovery': 'Recovery',
  'line-userspace': 'User-space flashing',
  'line-sideload': 'Package by sideload',
  'line-install': 'Install …',
  'line-cache': 'Erase the cache',
  'line-keep-storage': 'Erase, keep the storage',
  'line-erase': 'Erase everything',
  'line-format': 'Format data',
  'line-unlock': 'Unlock it, erase everything',
  'line-lock': 'Lock it, erase everything',
  'setting-unlock': 'Allow unlocking',
  'ask-restart': 'Restart now?',
} as const satisfies WayValues;

/** What a simulated handset has for a way: its own, else what stand-ins have. */
export const ownWay = <K extends keyof typeof STAND_IN_WAYS>(
  { ownWays }: Pick<HandsetProfile, 'ownWays'>,
  id: K,
): WayValue<K> => (ownWays[id] ?? (STAND_IN_WAYS as WayValues)[id]) as WayValue<K>;
