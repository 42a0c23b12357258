import type { WayValues } from './way-kinds';

/* The classes of handsets, and what is often so in each: guesses, until somebody has seen it. */

export const CLASS_IDS = [
  'two-slots-init-boot',
  'two-slots-boot',
  'one-slot-bootloader',
  'one-slot-download',
  'locked-for-good',
] as const;
export type ClassId = (typeof CLASS_IDS)[number];

/** What tells a class; null where it was never read. */
export interface ClassFacts {
  readonly slotCount: number | null;
  readonly hasInitBoot: boolean | null;
  readonly hasDownload: boolean | null;
  readonly bootloaderWrites: boolean | null;
  /** Its maker, its carrier or its country never lets it be unlocked. */
  readonly neverUnlocks: boolean;
}

export interface HandsetClass {
  readonly title: string;
  readonly guesses: WayValues;
}

const DOWN: WayValues = {
  'keys-off': { keys: ['power'], seconds: 10 },
  'keys-bootloader': { keys: ['power', 'down'], seconds: 3 },
  'keys-recovery': { keys: ['power', 'up'], seconds: 3 },
  'keys-loop': { keys: ['power', 'down'], seconds: 10 },
  'menu-moves': 'keys',
};

export const CLASSES: Readonly<Record<ClassId, HandsetClass>> = {
  'two-slots-init-boot': { title: 'Two slots, root in init_boot', guesses: DOWN },
  'two-slots-boot': { title: 'Two slots, root in boot', guesses: DOWN },
  'one-slot-bootloader': {
    title: 'One slot, a recovery of its own and a bootloader that writes',
    guesses: DOWN,
  },
  'one-slot-download': {
    title: 'One slot, download mode and no bootloader that writes',
    guesses: {
      'keys-off': { keys: ['power', 'down'], seconds: 7 },
      'keys-recovery': { keys: ['power', 'up'], seconds: 3 },
      'keys-download': { keys: ['up', 'down'], seconds: 3, cable: true },
      'menu-moves': 'keys',
    },
  },
  'locked-for-good': {
    title: 'Locked for good',
    guesses: { 'keys-off': { keys: ['power'], seconds: 10 } },
  },
};

/** The class of a handset; null where too little was read to tell. */
export function classOf(facts: ClassFacts): ClassId | null {
  const { slotCount, hasInitBoot, hasDownload, bootloaderWrites, neverUnlocks } = facts;
  if (neverUnlocks) return 'locked-for-good';
  if (slotCount === 2)
    return hasInitBoot === null ? null : hasInitBoot ? 'two-slots-init-boot' : 'two-slots-boot';
  if (slotCount !== 1) return null;
  if (bootloaderWrites === true || hasDownload === false) return 'one-slot-bootloader';
  // download mode alone says nothing of what its bootloader does
  return hasDownload === true && bootloaderWrites === false ? 'one-slot-download' : null;
}
