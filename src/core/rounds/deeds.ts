import type { StepKey } from './step-kind';

/*
 * What each step does to the handset, one exhaustive record a step: what it writes and so what is in doubt when it ends in its middle, which
 * gates stand before it, and what else follows from it. Every list over steps is derived from here.
 */

export const GATE_IDS = [
  'image-build',
  'image-partition',
  'root-sources',
  'sources',
  'image-proof',
  'stock-kept',
  'unlocked',
  'slot',
  'room',
  'kit',
  'battery',
  'tool',
  'listed',
  'recovery-image',
  'recovery-handset',
  'recovery-home',
  'whole',
  'fuse',
  'snapshot',
  'merging',
  'backup',
  'package',
  'switch',
  'makers-own',
  'started',
  'switch-seen',
  'index',
] as const;
export type GateId = (typeof GATE_IDS)[number];

export interface Writes {
  readonly what: 'root' | 'recovery' | 'bootloader' | 'whole build';
  /** Of a handset with two slots: the one that the step is about, the one that does not run, or both. */
  readonly slot: 'its own' | 'the other' | 'both';
}

interface Marks {
  /** Readings of the handset from before and after it speak of different moments. */
  readonly changes: boolean;
  /** Done on this page, never by word. */
  readonly here?: true;
  /** From it on nothing may restart until a step that starts. */
  readonly holds?: true;
  /** It touches the handset for good, though it writes no partition. */
  readonly touches?: true;
  /** The handset is seen listed outside its system. */
  readonly lists?: true;
  /** The handset only lies there: for the person, a backup, its maker, or a merge behind a dark screen. */
  readonly waits?: true;
  /** Root asks on the handset while it runs. */
  readonly asksForRoot?: true;
}

/** A step that writes has gates, and what it writes is in doubt when it is cut short: without both it is none. */
interface WritingDeed extends Marks {
  readonly writes: Writes;
  readonly gates: readonly [GateId, ...GateId[]];
  readonly changes: true;
}
interface QuietDeed extends Marks {
  readonly writes: null;
  readonly gates: readonly GateId[];
}
export type Deed = WritingDeed | QuietDeed;

const NONE: readonly GateId[] = [];
/** One image from the bootloader. */
const IMAGE = [
  'image-build',
  'image-partition',
  'root-sources',
  'sources',
  'image-proof',
  'stock-kept',
  'unlocked',
  'slot',
  'room',
  'kit',
  'battery',
  'tool',
  'listed',
] as const;
const STOCK_RECOVERY = ['image-build', 'image-partition', 'sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery', 'tool', 'listed'] as const;
/** Everything of a build from outside. */
const WHOLE = ['sources', 'stock-kept', 'unlocked', 'slot', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'] as const;

export const DEEDS: Readonly<Record<StepKey, Deed>> = {
  'read-facts': { writes: null, gates: NONE, changes: false },
  'back-up': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'guard-off': { writes: null, gates: NONE, changes: false, waits: true },
  protect: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  check: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'look-around': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  close: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'open-installed-package': { writes: null, gates: NONE, changes: false, here: true },
  'open-target-package': { writes: null, gates: NONE, changes: false, here: true },
  'take-stock': { writes: null, gates: NONE, changes: false, here: true },
  'take-target-stock': { writes: null, gates: NONE, changes: false, here: true },
  patch: { writes: null, gates: NONE, changes: false, here: true },
  'patch-target': { writes: null, gates: NONE, changes: false, here: true },
  'take-whole': { writes: null, gates: NONE, changes: false, here: true },
  'ask-code': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  bootloader: { writes: null, gates: NONE, changes: false, lists: true },
  download: { writes: null, gates: NONE, changes: false, lists: true },
  recovery: { writes: null, gates: NONE, changes: false, lists: true },
  'sideload-mode': { writes: null, gates: NONE, changes: false, lists: true },
  'unlock-switch': { writes: null, gates: NONE, changes: true, waits: true },
  debugging: { writes: null, gates: NONE, changes: false },
  'auto-update-off': { writes: null, gates: NONE, changes: false },
  start: { writes: null, gates: NONE, changes: true },
  'finish-start': { writes: null, gates: NONE, changes: true },
  'prove-root': { writes: null, gates: NONE, changes: false, asksForRoot: true },
  'finish-root-app': { writes: null, gates: NONE, changes: false },
  merge: { writes: null, gates: NONE, changes: true, waits: true },
  'cancel-update': { writes: null, gates: NONE, changes: true },
  'open-root': { writes: null, gates: NONE, changes: false },
  'modules-off': { writes: null, gates: NONE, changes: true, asksForRoot: true },
  'modules-on': { writes: null, gates: NONE, changes: true, asksForRoot: true },
  'erase-cache': { writes: null, gates: NONE, changes: true },
  'back-up-image': { writes: null, gates: NONE, changes: false },
  'patch-there': { writes: null, gates: NONE, changes: false },
  'patch-target-there': { writes: null, gates: NONE, changes: false },
  'write-root': { writes: { what: 'root', slot: 'its own' }, gates: IMAGE, changes: true },
  'start-once': { writes: null, gates: IMAGE, changes: true, holds: true, touches: true },
  'write-stock': {
    writes: { what: 'root', slot: 'its own' },
    gates: [
      'image-build',
      'image-partition',
      'root-sources',
      'sources',
      'image-proof',
      'stock-kept',
      'unlocked',
      'slot',
      'room',
      'battery',
      'tool',
      'listed',
    ],
    changes: true,
  },
  'write-recovery': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home', 'tool', 'listed'],
    changes: true,
    holds: true,
  },
  'write-stock-recovery': { writes: { what: 'recovery', slot: 'its own' }, gates: STOCK_RECOVERY, changes: true },
  'recovery-inside': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home'],
    changes: true,
    asksForRoot: true,
  },
  'recovery-once': {
    writes: null,
    gates: ['sources', 'unlocked', 'battery', 'recovery-image', 'recovery-handset', 'tool', 'listed'],
    changes: true,
    touches: true,
    lists: true,
  },
  'older-bootloader': {
    writes: { what: 'bootloader', slot: 'its own' },
    gates: ['sources', 'unlocked', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'],
    changes: true,
  },
  'wipe-keep-storage': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'factory-reset': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'format-data': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'root-zip': { writes: { what: 'root', slot: 'its own' }, gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'], changes: true },
  'zip-inside': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
  },
  'make-lasting': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
  },
  'stock-back': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'battery'],
    changes: true,
    holds: true,
    asksForRoot: true,
  },
  'patch-other-slot': {
    writes: { what: 'root', slot: 'the other' },
    gates: ['root-sources', 'sources', 'kit', 'battery'],
    changes: true,
    holds: true,
    asksForRoot: true,
  },
  'take-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,
    holds: true,
  },
  'take-full-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,
    holds: true,
  },
  'write-build': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true },
  'write-build-both': { writes: { what: 'whole build', slot: 'both' }, gates: WHOLE, changes: true },
  'write-build-patched': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true },
  'write-set': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true },
  'write-set-patched': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true },
  'write-set-wipe': {
    writes: { what: 'whole build', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'battery', 'whole', 'fuse', 'snapshot', 'backup', 'tool', 'listed'],
    changes: true,
  },
  sideload: { writes: { what: 'whole build', slot: 'the other' }, gates: ['sources', 'battery', 'package', 'snapshot'], changes: true },
  unlock: { writes: null, gates: ['battery', 'backup', 'snapshot', 'switch'], changes: true, touches: true },
  lock: { writes: null, gates: ['battery', 'makers-own', 'started', 'switch-seen', 'index', 'snapshot', 'backup'], changes: true, touches: true },
  'other-slot': { writes: null, gates: ['merging'], changes: true },
};

const keysWhere = (test: (deed: Deed) => boolean): readonly StepKey[] => (Object.keys(DEEDS) as StepKey[]).filter((key) => test(DEEDS[key]));

/** Steps that have checks before them. */
export const GATED = keysWhere(({ gates }) => gates.length > 0);
export const DONE_HERE = keysWhere(({ here }) => here === true);
export const CHANGING = keysWhere(({ changes }) => changes);
export const LISTING = keysWhere(({ lists }) => lists === true);
export const ASKS_FOR_ROOT = keysWhere(({ asksForRoot }) => asksForRoot === true);
/** They write with a tool on the computer, over its cable. */
export const FROM_OUTSIDE = keysWhere(({ writes, gates }) => writes !== null && gates.includes('tool'));
/** They are about a recovery of the person's own. */
export const OWN_RECOVERY = keysWhere(({ gates }) => gates.includes('recovery-image'));
