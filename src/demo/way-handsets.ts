import type { DemoHandset } from './world';
import { BUILDS, HANDSETS } from './world';

/* One handset of each class, as the pieces of work to try begin from it: stock, locked or not. */

const of = (profile: string) => HANDSETS.find((handset) => handset.profile === profile)!;
const ID = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0101';
const FACTS_AT = '2026-11-09T18:30:00Z';
const BOUGHT = ['2026-10-20T10:00:00Z', 'stock', 'put on the bench'] as const;
const SIXTEEN_MIB = String(16 * 1024 * 1024);

const stock = (handset: DemoHandset): DemoHandset => ({
  ...handset,
  id: ID,
  live: true,
  hidesLock: false,
  factsAt: FACTS_AT,
  root: [BOUGHT],
  typed: {},
  unlockSwitch: 'on',
});

/** Two slots, root in init_boot. */
const north = { ...stock(of('north-gate')), installed: BUILDS.northGate.at(-2)! };
/** Two slots, root in boot, starts from memory. */
const ridge = stock(of('ridge'));
/** One slot, download mode, no bootloader that writes. */
const barn = {
  ...stock(of('barn')),
  more: { ...of('barn').more, bootloaderWrites: 'false', snapshot: 'none' },
};
/** Two slots, a code by mail. */
const spare = { ...stock(of('spare')), unlockSwitch: 'off' as const };
/** One slot with a recovery of its own, unlocked by command. */
const weir: DemoHandset = {
  ...stock(of('barn')),
  name: 'Weir tablet',
  model: 'Fallow Reed 10',
  brand: 'fallow',
  serial: 'WT3306HC9M',
  profile: 'weir',
  installed: BUILDS.weir[0]!,
  builds: BUILDS.weir,
  sdk: 34,
  firstApiLevel: 30,
  bootloader: 'fr-2.1',
  fuse: 1,
  more: {
    downloadMode: 'false',
    bootloaderWrites: 'true',
    restoresRecovery: 'false',
    unlockPath: 'command',
    snapshot: 'none',
    'partition-size:boot': SIXTEEN_MIB,
    'partition-size:recovery': SIXTEEN_MIB,
  },
};
/** Locked for good; a build of it is open from inside. */
const hut: DemoHandset = {
  ...stock(of('spare')),
  name: 'Hut phone',
  model: 'Garth Beacon',
  brand: 'garth',
  serial: 'HP90LT27WE',
  profile: 'hut',
  installed: BUILDS.hut[0]!,
  builds: BUILDS.hut,
  bootloader: 'gb-1.8',
  more: { unlockPath: 'none' },
  unlockSwitch: 'off',
};

export const WAY_HANDSETS = { north, ridge, barn, spare, weir, hut } as const;
