import { buildFacts, compareBuilds, keysOpen, onSlot } from './builds';
import { notRunning, withoutSystem } from './operated';
import type { DataState, HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { modulesLoaded, otherSlot } from './state';
import { recordAfterStart } from './tamper-record';

export type StartOutcome =
  | { readonly result: 'started'; readonly slot: Slot; readonly rooted: boolean; readonly fellBack: boolean }
  | { readonly result: 'loops'; readonly slot: Slot }
  | { readonly result: 'dead' };

/** What an ordinary start runs from, where the handset has it. */
const CHAIN = ['boot', 'init_boot', 'vendor_boot'] as const;
/** Nothing of an ordinary start: a broken one is seen only where it is needed. */
const BESIDE = new Set(['recovery', 'radio']);

const onThatSlot = ({ images }: HandsetState, slot: Slot): [partition: string, image: ImageFacts][] =>
  Object.entries(images).flatMap(([name, image]) =>
    name.endsWith(`_${slot}`) ? [[name.slice(0, -2), image]] : [],
  );
const isChanged = ({ patchedBy, recovery, digestValid }: ImageFacts) =>
  patchedBy !== null || (recovery ?? null) !== null || digestValid === false;
/** A container of no known format says nothing of its build. */
const isOfOther = ({ fingerprint }: ImageFacts, build: string) =>
  fingerprint !== null && fingerprint !== build;

/**
 * Why a slot keeps the handset from starting, or null when it starts. In the order of the rule
 * (docs/method.md, "What a start does").
 */
export function startFault(profile: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  const { bootable, proven, triesLeft, gone } = state.slots[slot];
  if (!bootable) return `slot ${slot} is marked as not bootable`;
  if (!proven && triesLeft <= 0 && profile.slotCount === 2) return `slot ${slot} has no tries left`;
  if (gone === true) return `slot ${slot} holds no system any more`;
  return (
    (state.locked ? lockFault(profile, state, slot) : null) ??
    imageFault(profile, state, slot) ??
    flagsFault(profile, state, slot) ??
    dataFault(profile, state, state.builds[slot]) ??
    moduleFault(profile, state, slot)
  );
}

/** Locked, everything that is verified has to be the maker's, of this build, at or above the stored index. */
function lockFault(profile: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  const build = state.builds[slot];
  const foreign = onThatSlot(state, slot).find(
    ([partition, image]) =>
      isChanged(image) ||
      isOfOther(image, build) ||
      (partition === profile.rootPartition && image.digestValid !== true),
  );
  if (foreign) return `${foreign[0]} on slot ${slot} is not the maker's, and the bootloader is locked`;
  return buildFacts(profile, build).index < state.floors.index
    ? `the build on slot ${slot} is below the stored rollback index, and the bootloader is locked`
    : null;
}

function imageFault(profile: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  const { rootPartition } = profile;
  const build = state.builds[slot];
  if (!['recovery', 'none'].includes(rootPartition) && !state.images[onSlot(rootPartition, slot)])
    return `${rootPartition} on slot ${slot} is empty`;
  const broken = onThatSlot(state, slot).find(
    ([partition, image]) => image.broken !== null && !BESIDE.has(partition),
  );
  if (broken) return `${broken[0]} on slot ${slot}: ${broken[1].broken}`;
  // a generic ramdisk may be of another build; a kernel, and the maker's own ramdisk, may not
  const strict = profile.strictRamdisk ? CHAIN : CHAIN.filter((partition) => partition !== 'init_boot');
  for (const partition of strict) {
    const image = state.images[onSlot(partition, slot)];
    if (image && isOfOther(image, build))
      return `${partition} on slot ${slot} belongs to ${image.fingerprint}, the system on it is ${build}`;
  }
  return null;
}

/** Some handsets start a changed image only where the flags of their verified-boot data allow it. */
function flagsFault({ needsVbmetaFlags }: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  if (!needsVbmetaFlags || state.locked || (state.images[onSlot('vbmeta', slot)]?.flags ?? 0) !== 0)
    return null;
  const changed = CHAIN.find((partition) => {
    const image = state.images[onSlot(partition, slot)];
    return image !== undefined && isChanged(image);
  });
  return changed === undefined
    ? null
    : `${changed} on slot ${slot} is changed, and the flags of its verified-boot data do not allow that`;
}

/**
 * Why nothing runs from its recovery: it starts from boot's kernel, the first stage and the recovery's own
 * ramdisk, wherever that lives. In a partition of its own on a handset with one slot it brings all of these.
 */
export function recoveryFault(
  { recoveryHome, slotCount }: HandsetProfile,
  state: HandsetState,
): string | null {
  const alone = recoveryHome === 'recovery' && slotCount === 1;
  for (const partition of alone ? [recoveryHome] : [...CHAIN, recoveryHome]) {
    const broken = state.images[onSlot(partition, state.active)]?.broken ?? null;
    if (broken !== null) return `${partition}: ${broken}`;
  }
  const home = state.images[onSlot(recoveryHome, state.active)];
  return state.locked && home?.recovery ? 'it is not the maker’s, and the bootloader is locked' : null;
}

function dataFault(profile: HandsetProfile, { data }: HandsetState, build: string): string | null {
  if (data.committedBy !== null && compareBuilds(profile, build, data.committedBy) < 0)
    return 'its data was opened by a newer build, and this one cannot read it: it may ask for a wipe';
  if (data.encrypted && !keysOpen(profile, data.keyLevel, build))
    return 'its keys are bound to a newer patch level';
  return null;
}

const MODULE_FAULT = 'it starts to load its modules, and starts over';

function moduleFault(
  profile: HandsetProfile,
  { modules, builds, images }: HandsetState,
  slot: Slot,
): string | null {
  if (!startsRooted(profile, images, slot)) return null;
  const bad = modulesLoaded(modules).find(
    (id) =>
      (modules.breaks ?? []).includes(id) ||
      profile.badModules.some((one) => one.id === id && one.build === builds[slot]),
  );
  return bad === undefined ? null : MODULE_FAULT;
}

/** Root comes up with an ordinary start: it sits in what such a start runs from. */
function startsRooted(
  { rootPartition, systemAsRoot }: HandsetProfile,
  images: HandsetState['images'],
  slot: Slot,
): boolean {
  const image = images[onSlot(rootPartition, slot)];
  if (rootPartition === 'recovery' || (image?.patchedBy ?? null) === null) return false;
  return !systemAsRoot || image?.choosesRamdisk === true;
}

/** Below its fuse, or with a bootloader whose write was cut short: no screen, no way in. */
function deadBy({ floors, images, active }: HandsetState): string | null {
  if (floors.bootloader < floors.fuse) return 'the bootloader is below its fuse';
  const broken = images[onSlot('bootloader', active)]?.broken ?? null;
  return broken === null ? null : `its bootloader: ${broken}`;
}

/**
 * One press of the power key, to its end. An unproven slot spends its tries and then gives way to the other
 * slot, if that one is bootable and whole; a proven slot has no such net and loops (docs/method.md, "What a
 * start does").
 */
export function start(
  profile: HandsetProfile,
  state: HandsetState,
): { state: HandsetState; outcome: StartOutcome } {
  const dead = deadBy(state);
  if (dead !== null)
    return { state: { ...state, mode: 'dead', ...notRunning, lastStart: dead }, outcome: { result: 'dead' } };
  const slot = state.active;
  const fault = startFault(profile, state, slot);
  if (fault === null) return succeed(profile, state, slot, false);
  const other = otherSlot(slot);
  if (!state.slots[slot].proven && profile.slotCount === 2) {
    const spent: HandsetState = {
      ...state,
      slots: { ...state.slots, [slot]: { ...state.slots[slot], triesLeft: 0, bootable: false } },
    };
    if (startFault(profile, spent, other) === null)
      return succeed(profile, calledOff(spent, slot), other, true);
    return loop(spent, slot, fault);
  }
  if (fault === MODULE_FAULT && state.loops >= (profile.restsModulesAfter ?? Infinity))
    return succeed(profile, { ...state, modules: { ...state.modules, on: false } }, slot, false);
  return loop(state, slot, fault);
}

/** An update whose slot was given up is gone with it. */
function calledOff(state: HandsetState, slot: Slot): HandsetState {
  return state.update?.slot === slot ? { ...state, update: null, snapshot: 'none' } : state;
}

function succeed(
  profile: HandsetProfile,
  state: HandsetState,
  slot: Slot,
  fellBack: boolean,
): { state: HandsetState; outcome: StartOutcome } {
  const build = state.builds[slot];
  const inside = state.insideRoot === 'lasting' && profile.openBuilds.includes(build);
  const rooted = inside || startsRooted(profile, state.images, slot);
  const wasProven = state.slots[slot].proven;
  const begun = state.update?.slot === slot;
  const merges = begun && state.snapshot === 'waiting';
  const facts = buildFacts(profile, build);
  const { insideRoot: _inside, mergeStuck: _stuck, ...rest } = state;
  const after: HandsetState = {
    ...rest,
    ...(inside ? { insideRoot: 'lasting' } : {}),
    mode: 'system',
    active: slot,
    slots: begunSlots(profile, state, slot, merges),
    ...(state.writtenSinceStart ? { writtenSinceStart: false } : {}),
    ...notRunning,
    running: { slot, build, rooted },
    loops: 0,
    lastStart: fellBack ? `fell back to slot ${slot}` : `started from slot ${slot}`,
    update: begun ? null : state.update,
    snapshot: merges ? 'merging' : state.snapshot,
    // the index is raised at a later start of a slot that had been proven, never at its first; unlocked too
    floors: {
      ...state.floors,
      fuse: Math.max(state.floors.fuse, state.floors.bootloader),
      index: wasProven ? Math.max(state.floors.index, facts.index) : state.floors.index,
    },
    data: opened(profile, state.data, build, facts.patchLevel),
    record: recordAfterStart(profile, state.record, foreignOn(state.images, slot)),
    rootApp: rooted && state.rootApp === 'absent' ? 'unfinished' : state.rootApp,
    images: profile.restoresRecovery ? stockRecoveryBack(profile, state, slot) : state.images,
    modules: rooted ? stubbornOn(profile, state.modules) : state.modules,
  };
  return { state: after, outcome: { result: 'started', slot, rooted, fellBack } };
}

/** With root, the ones that heed no switch load again. */
function stubbornOn(
  { stubbornModules }: HandsetProfile,
  modules: HandsetState['modules'],
): HandsetState['modules'] {
  const again = modules.ids.filter((id) => stubbornModules.includes(id));
  if (again.length === 0) return modules;
  const off = modules.on ? (modules.off ?? []) : modules.ids;
  return { ...modules, on: true, off: off.filter((id) => !again.includes(id)) };
}

const foreignOn = (images: HandsetState['images'], slot: Slot) =>
  Object.entries(images).some(
    ([name, { patchedBy, recovery }]) =>
      name.endsWith(`_${slot}`) && (patchedBy !== null || Boolean(recovery)),
  );

/** Merging begins with the first start of the new slot, and from then on the old one holds no system. */
function begunSlots(
  { triesPerSlot }: HandsetProfile,
  { slots }: HandsetState,
  slot: Slot,
  merges: boolean,
): HandsetState['slots'] {
  const after = { ...slots, [slot]: { bootable: true, proven: true, triesLeft: triesPerSlot } };
  return merges ? withoutSystem(after, otherSlot(slot)) : after;
}

/**
 * The start with the keys of the recovery, where root sits in its ramdisk: the system comes up with root, until
 * it is left.
 */
export function startWithRecoveryKeys(profile: HandsetProfile, state: HandsetState): HandsetState {
  const image = state.images[onSlot('recovery', state.active)];
  const broken = image === undefined ? 'it is empty' : image.broken;
  if (broken !== null) return loop(state, state.active, `recovery: ${broken}`).state;
  const started = start(profile, state).state;
  return started.running === null || (image?.patchedBy ?? null) === null
    ? started
    : {
        ...started,
        running: { ...started.running, rooted: true },
        rootApp: started.rootApp === 'absent' ? 'unfinished' : started.rootApp,
      };
}

function opened(profile: HandsetProfile, data: DataState, build: string, patchLevel: string): DataState {
  const newer = data.committedBy === null || compareBuilds(profile, build, data.committedBy) > 0;
  return {
    ...data,
    committedBy: newer ? build : data.committedBy,
    keyLevel: data.keyLevel === null || patchLevel > data.keyLevel ? patchLevel : data.keyLevel,
  };
}

/** What a recovery that the system put back is called until its bytes are read. */
export const stockRecoveryOf = (build: string) => `stock recovery of ${build}`;

/** Some systems write the stock recovery over any other at their start. */
function stockRecoveryBack(
  profile: HandsetProfile,
  { images, builds, keepsRecovery }: HandsetState,
  slot: Slot,
): HandsetState['images'] {
  const key = onSlot('recovery', slot);
  const image = profile.recoveryHome === 'recovery' && keepsRecovery !== true ? images[key] : undefined;
  if (!image?.recovery) return images;
  return {
    ...images,
    [key]: {
      ...image,
      sha256: stockRecoveryOf(builds[slot]),
      fingerprint: builds[slot],
      patchedBy: null,
      recovery: null,
      digestValid: true,
    },
  };
}

function loop(
  state: HandsetState,
  slot: Slot,
  fault: string,
): { state: HandsetState; outcome: StartOutcome } {
  return {
    state: { ...state, mode: 'looping', ...notRunning, loops: state.loops + 1, lastStart: fault },
    outcome: { result: 'loops', slot },
  };
}
