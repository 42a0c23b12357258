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

/** What a round is signed off by, in the order in which it is read (docs/method.md, "Sign-off"). */
export const CLAIM_IDS = [
  'build-known',
  'image-proved',
  'written',
  'starts',
  'root-works',
  'recovery-opens',
  'data-imaged',
  'merged',
  'modules-back',
  'locked',
  'data-there',
  'calls',
  'payments',
] as const;
export type ClaimId = (typeof CLAIM_IDS)[number];

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
  /** Done in another room than the round's. */
  readonly room?: 'firmware' | 'images';
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
  /** What its evidence speaks for when the round is signed off. */
  readonly proves?: readonly ClaimId[];
  /** What it changes for a while, and the steps that undo it. */
  readonly opens?: { readonly what: string; readonly closedBy: readonly StepKey[] };
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
  'read-facts': { writes: null, gates: NONE, changes: false, proves: ['build-known'] },
  'back-up': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'guard-off': { writes: null, gates: NONE, changes: false, waits: true },
  protect: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  check: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'look-around': { writes: null, gates: NONE, changes: false, here: true, waits: true, proves: ['data-there', 'calls', 'payments'] },
  close: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'open-installed-package': { writes: null, gates: NONE, changes: false, here: true, room: 'firmware' },
  'open-target-package': { writes: null, gates: NONE, changes: false, here: true, room: 'firmware' },
  'take-stock': { writes: null, gates: NONE, changes: false, here: true, room: 'firmware' },
  'take-target-stock': { writes: null, gates: NONE, changes: false, here: true, room: 'firmware' },
  patch: { writes: null, gates: NONE, changes: false, here: true, room: 'images', proves: ['image-proved'] },
  'patch-target': { writes: null, gates: NONE, changes: false, here: true, room: 'images', proves: ['image-proved'] },
  'take-whole': { writes: null, gates: NONE, changes: false, here: true, room: 'firmware' },
  'ask-code': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  bootloader: { writes: null, gates: NONE, changes: false, lists: true },
  download: { writes: null, gates: NONE, changes: false, lists: true },
  recovery: { writes: null, gates: NONE, changes: false, lists: true, proves: ['recovery-opens'] },
  'sideload-mode': { writes: null, gates: NONE, changes: false, lists: true },
  'unlock-switch': { writes: null, gates: NONE, changes: true, waits: true },
  debugging: { writes: null, gates: NONE, changes: false },
  'auto-update-off': { writes: null, gates: NONE, changes: false },
  start: { writes: null, gates: NONE, changes: true, proves: ['build-known', 'starts'] },
  'finish-start': { writes: null, gates: NONE, changes: true, proves: ['build-known', 'starts'] },
  'prove-root': { writes: null, gates: NONE, changes: false, asksForRoot: true, proves: ['root-works'] },
  'finish-root-app': { writes: null, gates: NONE, changes: false },
  merge: { writes: null, gates: NONE, changes: true, waits: true, proves: ['merged'] },
  'cancel-update': { writes: null, gates: NONE, changes: true },
  'open-root': { writes: null, gates: NONE, changes: false },
  'modules-off': { writes: null, gates: NONE, changes: true, asksForRoot: true, opens: { what: 'The modules are off', closedBy: ['modules-on'] } },
  'modules-on': { writes: null, gates: NONE, changes: true, asksForRoot: true, proves: ['modules-back'] },
  'erase-cache': { writes: null, gates: NONE, changes: true },
  'back-up-image': { writes: null, gates: NONE, changes: false, proves: ['data-imaged'] },
  'patch-there': { writes: null, gates: NONE, changes: false, proves: ['image-proved'] },
  'patch-target-there': { writes: null, gates: NONE, changes: false, proves: ['image-proved'] },
  'write-root': { writes: { what: 'root', slot: 'its own' }, gates: IMAGE, changes: true, proves: ['written'] },
  'start-once': {
    writes: null,
    gates: IMAGE,
    changes: true,
    holds: true,
    touches: true,
    opens: { what: 'Root runs from memory only', closedBy: ['make-lasting', 'zip-inside'] },
  },
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
    proves: ['written'],
  },
  'write-recovery': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home', 'tool', 'listed'],
    changes: true,
    holds: true,
    proves: ['written'],
  },
  'write-stock-recovery': { writes: { what: 'recovery', slot: 'its own' }, gates: STOCK_RECOVERY, changes: true, proves: ['written'] },
  'recovery-inside': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
  },
  'recovery-once': {
    writes: null,
    gates: ['sources', 'unlocked', 'battery', 'recovery-image', 'recovery-handset', 'tool', 'listed'],
    changes: true,
    touches: true,
    lists: true,
    proves: ['recovery-opens'],
  },
  'older-bootloader': {
    writes: { what: 'bootloader', slot: 'its own' },
    gates: ['sources', 'unlocked', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'],
    changes: true,
    proves: ['written'],
  },
  'wipe-keep-storage': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'factory-reset': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'format-data': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'root-zip': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
    changes: true,
    proves: ['written'],
  },
  'zip-inside': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
  },
  'make-lasting': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
  },
  'stock-back': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'battery'],
    changes: true,
    holds: true,
    asksForRoot: true,
    opens: { what: 'The stock image lies on disk while root runs', closedBy: ['start', 'finish-start', 'write-root'] },
  },
  'patch-other-slot': {
    writes: { what: 'root', slot: 'the other' },
    gates: ['root-sources', 'sources', 'kit', 'battery'],
    changes: true,
    holds: true,
    asksForRoot: true,
    proves: ['image-proved', 'written'],
  },
  'take-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,
    holds: true,
    opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
  },
  'take-full-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,
    holds: true,
    opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
  },
  'write-build': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true, proves: ['written'] },
  'write-build-both': { writes: { what: 'whole build', slot: 'both' }, gates: WHOLE, changes: true, proves: ['written'] },
  'write-build-patched': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true, proves: ['written'] },
  'write-set': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true, proves: ['written'] },
  'write-set-patched': { writes: { what: 'whole build', slot: 'its own' }, gates: WHOLE, changes: true, proves: ['written'] },
  'write-set-wipe': {
    writes: { what: 'whole build', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'battery', 'whole', 'fuse', 'snapshot', 'backup', 'tool', 'listed'],
    changes: true,
    proves: ['written'],
  },
  sideload: {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'battery', 'package', 'snapshot'],
    changes: true,
    proves: ['written'],
  },
  unlock: { writes: null, gates: ['battery', 'backup', 'snapshot', 'switch'], changes: true, touches: true },
  lock: {
    writes: null,
    gates: ['battery', 'makers-own', 'started', 'switch-seen', 'index', 'snapshot', 'backup'],
    changes: true,
    touches: true,
    proves: ['locked'],
  },
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

/** The steps that undo what another one changed for a while; none where `kind` is a person's own note. */
export const undoneBy = (kind: string): readonly StepKey[] => (Object.hasOwn(DEEDS, kind) ? DEEDS[kind as StepKey].opens?.closedBy : undefined) ?? [];
