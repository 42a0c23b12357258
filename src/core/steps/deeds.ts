import type { GateId } from '../words/gates';
import type { Deed } from './deed';
import type { StepKey } from './step-kind';

/*
 * What each step does to the handset, one exhaustive record a step: what it writes and so what is in doubt when it ends in its middle, which
 * gates stand before it, and what else follows from it. Every list over steps is derived from here.
 */

const NONE: readonly GateId[] = [];
/** The stock image of the slot from the bootloader. */
const STOCK = [
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
] as const;
/** A patched image from there: its kit has to be made for the release too. */
const PATCHED = [...STOCK, 'kit'] as const;
const STOCK_RECOVERY = ['image-build', 'image-partition', 'sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery', 'tool', 'listed'] as const;
/** Everything of a build from outside. */
const WHOLE = ['sources', 'stock-kept', 'unlocked', 'slot', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'] as const;

export const DEEDS: Readonly<Record<StepKey, Deed>> = {
  'read-facts': { writes: null, gates: NONE, changes: false, pastes: true, proves: ['build-known'] },
  'back-up': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'guard-off': { writes: null, gates: NONE, changes: false, waits: true },
  protect: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  check: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'look-around': { writes: null, gates: NONE, changes: false, here: true, waits: true, proves: ['data-there', 'calls', 'payments'] },
  close: { writes: null, gates: NONE, changes: false, here: true, waits: true },
  'open-installed-package': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'firmware',
    settledBy: { what: 'package', of: 'its build' },
  },
  'open-target-package': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'firmware',
    settledBy: { what: 'package', of: 'the target' },
  },
  'take-stock': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'firmware',
    settledBy: { what: 'stock', of: 'its build' },
    keeps: 'one image',
  },
  'take-target-stock': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'firmware',
    settledBy: { what: 'stock', of: 'the target' },
    keeps: 'one image',
  },
  patch: {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'images',
    proves: ['image-proved'],
    settledBy: { what: 'patched', of: 'its build' },
    keeps: 'one image',
  },
  'patch-target': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'images',
    proves: ['image-proved'],
    settledBy: { what: 'patched', of: 'the target' },
    keeps: 'one image',
  },
  'take-whole': {
    writes: null,
    gates: NONE,
    changes: false,
    here: true,
    room: 'firmware',
    settledBy: { what: 'every image', of: 'the target' },
    keeps: 'every image',
    wholeBuild: true,
  },
  'ask-code': { writes: null, gates: NONE, changes: false, here: true, waits: true },
  bootloader: { writes: null, gates: NONE, changes: false, pastes: true, lists: true, reachedByLink: 'bootloader' },
  download: { writes: null, gates: NONE, changes: false, lists: true },
  recovery: {
    writes: null,
    gates: NONE,
    changes: false,
    lists: true,
    proves: ['recovery-opens'],
    letsGo: 'going into the recovery',
    reachedByLink: 'recovery',
  },
  'sideload-mode': { writes: null, gates: NONE, changes: false, lists: true },
  'unlock-switch': { writes: null, gates: NONE, changes: true, waits: true },
  debugging: { writes: null, gates: NONE, changes: false, pastes: true },
  'auto-update-off': { writes: null, gates: NONE, changes: false },
  start: { writes: null, gates: NONE, changes: true, pastes: true, proves: ['build-known', 'starts'], starts: true },
  'finish-start': { writes: null, gates: NONE, changes: true, pastes: true, proves: ['build-known', 'starts'], starts: true },
  'prove-root': { writes: null, gates: NONE, changes: false, asksForRoot: true, proves: ['root-works'] },
  'finish-root-app': { writes: null, gates: NONE, changes: false },
  merge: { writes: null, gates: NONE, changes: true, waits: true, proves: ['merged'] },
  'cancel-update': { writes: null, gates: NONE, changes: true },
  'open-root': { writes: null, gates: NONE, changes: false },
  'modules-off': { writes: null, gates: NONE, changes: true, asksForRoot: true, opens: { what: 'The modules are off', closedBy: ['modules-on'] } },
  'modules-on': { writes: null, gates: NONE, changes: true, asksForRoot: true, proves: ['modules-back'] },
  'erase-cache': { writes: null, gates: NONE, changes: true },
  'back-up-image': { writes: null, gates: NONE, changes: false, proves: ['data-imaged'] },
  'patch-there': { writes: null, gates: NONE, changes: false, proves: ['image-proved'], keeps: 'one image' },
  'patch-target-there': { writes: null, gates: NONE, changes: false, proves: ['image-proved'], keeps: 'one image' },
  'write-root': {
    writes: { what: 'root', slot: 'its own' },
    gates: PATCHED,
    changes: true,
    proves: ['written'],
    image: { what: 'patched', of: 'its build' },
    slips: ['wrong slot'],
  },
  'start-once': {
    writes: null,
    gates: PATCHED,
    changes: true,

    touches: true,
    opens: { what: 'Root runs from memory only', closedBy: ['make-lasting', 'zip-inside'] },
    image: { what: 'patched', of: 'its build' },
    holds: { why: 'Root runs from memory; the disk holds the stock image.', cost: 'The next start would be without root.' },
    root: 'from memory',
  },
  'write-stock': {
    writes: { what: 'root', slot: 'its own' },
    gates: STOCK,
    changes: true,
    proves: ['written'],
    image: { what: 'stock', of: 'its build' },
  },
  'write-recovery': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home', 'tool', 'listed'],
    changes: true,

    proves: ['written'],
    image: { what: 'own recovery', of: 'its build' },
    holds: { why: 'The system may put the stock recovery back at its start.', cost: 'The recovery would be gone; write it again.' },
  },
  'write-stock-recovery': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: STOCK_RECOVERY,
    changes: true,
    proves: ['written'],
    image: { what: 'stock recovery', of: 'its build' },
  },
  'recovery-inside': {
    writes: { what: 'recovery', slot: 'its own' },
    gates: ['sources', 'stock-kept', 'room', 'battery', 'recovery-image', 'recovery-handset', 'recovery-home'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
    image: { what: 'own recovery', of: 'its build' },
  },
  'recovery-once': {
    writes: null,
    gates: ['sources', 'unlocked', 'battery', 'recovery-image', 'recovery-handset', 'tool', 'listed'],
    changes: true,
    touches: true,
    lists: true,
    proves: ['recovery-opens'],
    image: { what: 'own recovery', of: 'its build' },
  },
  'older-bootloader': {
    writes: { what: 'bootloader', slot: 'its own' },
    gates: ['sources', 'unlocked', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'],
    changes: true,
    proves: ['written'],
    image: { what: 'stock bootloader', of: 'the target' },
  },
  'wipe-keep-storage': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'factory-reset': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'format-data': { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },
  'root-zip': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
    changes: true,
    proves: ['written'],
    image: { what: 'patched', of: 'its build' },
  },
  'zip-inside': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
    image: { what: 'patched', of: 'its build' },
    letsGo: 'making it lasting',
    root: 'lasting',
  },
  'make-lasting': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'kit', 'battery'],
    changes: true,
    asksForRoot: true,
    proves: ['written'],
    image: { what: 'patched', of: 'its build' },
    letsGo: 'making it lasting',
    root: 'lasting',
  },
  'stock-back': {
    writes: { what: 'root', slot: 'its own' },
    gates: ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'battery'],
    changes: true,

    asksForRoot: true,
    opens: { what: 'The stock image lies on disk while root runs', closedBy: ['start', 'finish-start', 'write-root'] },
    image: { what: 'stock', of: 'its build' },
    holds: { why: 'The stock image lies on disk; root only still runs.', cost: 'The next start would be without root.' },
  },
  'patch-other-slot': {
    writes: { what: 'root', slot: 'the other' },
    gates: ['root-sources', 'sources', 'kit', 'battery'],
    changes: true,

    asksForRoot: true,
    proves: ['image-proved', 'written'],
    image: { what: 'patched', of: 'the target' },
    keeps: 'one image',
    holds: {
      why: 'The other slot is patched and waits for the one restart that belongs there.',
      cost: 'It would start rooted, and unwatched: take it here.',
    },
  },
  'take-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,

    opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
    holds: { why: 'The new build waits on the other slot, unpatched.', cost: 'It would start without root, and root again takes the computer.' },
    slips: ['early restart'],
  },
  'take-full-update': {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
    changes: true,

    opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
    holds: { why: 'The new build waits on the other slot, unpatched.', cost: 'It would start without root, and root again takes the computer.' },
    slips: ['early restart'],
  },
  'write-build': {
    writes: { what: 'whole build', slot: 'its own', parts: { patched: false, wipes: false } },
    gates: WHOLE,
    changes: true,
    proves: ['written'],
  },
  'write-build-both': {
    writes: { what: 'whole build', slot: 'both', parts: { patched: false, wipes: false } },
    gates: WHOLE,
    changes: true,
    proves: ['written'],
  },
  'write-build-patched': {
    writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: false } },
    gates: WHOLE,
    changes: true,
    proves: ['written'],
  },
  'write-set': {
    writes: { what: 'whole build', slot: 'its own', parts: { patched: false, wipes: false } },
    gates: WHOLE,
    changes: true,
    proves: ['written'],
  },
  'write-set-patched': {
    writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: false } },
    gates: WHOLE,
    changes: true,
    proves: ['written'],
  },
  'write-set-wipe': {
    writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: true } },
    gates: ['sources', 'stock-kept', 'unlocked', 'slot', 'battery', 'whole', 'fuse', 'snapshot', 'backup', 'tool', 'listed'],
    changes: true,
    proves: ['written'],
  },
  sideload: {
    writes: { what: 'whole build', slot: 'the other' },
    gates: ['sources', 'battery', 'package', 'snapshot'],
    changes: true,
    proves: ['written'],
    wholeBuild: true,
  },
  unlock: { writes: null, gates: ['battery', 'backup', 'snapshot', 'switch'], changes: true, touches: true, pastes: true },
  lock: {
    writes: null,
    gates: ['battery', 'makers-own', 'started', 'switch-seen', 'index', 'snapshot', 'backup'],
    changes: true,
    touches: true,
    pastes: true,
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
/** A whole build out of the vault, image by image. */
export const PARTS_WRITES = keysWhere(({ writes }) => writes?.parts !== undefined);
export const FROM_OUTSIDE = keysWhere(({ writes, gates }) => writes !== null && gates.includes('tool'));
/** They are about a recovery of the person's own. */
export const OWN_RECOVERY = keysWhere(({ image }) => image?.what === 'own recovery');
export const STARTING = keysWhere(({ starts }) => starts === true);

/** The steps that undo what another one changed for a while; none where `kind` is a person's own note. */
export const undoneBy = (kind: string): readonly StepKey[] => (Object.hasOwn(DEEDS, kind) ? DEEDS[kind as StepKey].opens?.closedBy : undefined) ?? [];
