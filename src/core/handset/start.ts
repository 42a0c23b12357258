import { buildFacts, compareBuilds, keysOpen, onSlot } from './builds';
import { notRunning } from './operated';
import type { DataState, HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { modulesLoaded, otherSlot } from './state';

export type StartOutcome =
  | { readonly result: 'started'; readonly slot: Slot; readonly rooted: boolean; readonly fellBack: boolean }
  | { readonly result: 'loops'; readonly slot: Slot }
  | { readonly result: 'dead' };

/**
 * Images that have to be of the system's own build, whatever the handset tolerates in its generic ramdisk.
 */
const OWN_BUILD = ['boot', 'vendor_boot'] as const;

/**
 * Why a slot keeps the handset from starting, or null when it starts. In the order of the rule
 * (docs/method.md, "What a start does").
 */
export function startFault(profile: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  const build = state.builds[slot];
  if (!state.slots[slot].bootable) return `slot ${slot} is marked as not bootable`;
  const image = state.images[onSlot(profile.rootPartition, slot)];
  const name = `${profile.rootPartition} on slot ${slot}`;
  if (!image) return `${name} is empty`;
  if (image.broken !== null) return `${name}: ${image.broken}`;
  if (state.locked) {
    if (image.digestValid !== true || image.patchedBy !== null)
      return `${name} is not the maker's, and the bootloader is locked`;
    if (buildFacts(profile, build).index < state.floors.index)
      return `the build on slot ${slot} is below the stored rollback index, and the bootloader is locked`;
  }
  for (const partition of OWN_BUILD) {
    const own = partition === profile.rootPartition ? undefined : state.images[onSlot(partition, slot)];
    if (own && own.broken !== null) return `${partition} on slot ${slot}: ${own.broken}`;
    if (own && own.fingerprint !== null && own.fingerprint !== build)
      return `${partition} on slot ${slot} belongs to ${own.fingerprint}, the system on it is ${build}`;
  }
  // an image that names no build, and holds nothing that does, is no other build's
  if (strictAbout(profile) && image.fingerprint !== null && image.fingerprint !== build)
    return `${name} belongs to ${image.fingerprint}, the system on this slot is ${build}`;
  return dataFault(profile, state, build) ?? moduleFault(profile, state, slot, image);
}

/** A generic ramdisk may be of another build; a boot image with its kernel may not. */
const strictAbout = (profile: HandsetProfile) => profile.strictRamdisk || profile.rootPartition === 'boot';

function dataFault(profile: HandsetProfile, { data }: HandsetState, build: string): string | null {
  if (data.committedBy !== null && compareBuilds(profile, build, data.committedBy) < 0)
    return 'its data was opened by a newer build, and this one cannot read it: it may ask for a wipe';
  if (data.encrypted && !keysOpen(profile, data.keyLevel, build))
    return 'its keys are bound to a newer patch level';
  return null;
}

const MODULE_FAULT = 'it starts to load its modules, and starts over';
/** After so many failed starts in a row the kit rests all modules. */
export const RESTS_AFTER = 3;

function moduleFault(
  profile: HandsetProfile,
  { modules, builds }: HandsetState,
  slot: Slot,
  image: ImageFacts,
): string | null {
  if (image.patchedBy === null) return null;
  const bad = modulesLoaded(modules).find((id) =>
    profile.badModules.some((one) => one.id === id && one.build === builds[slot]),
  );
  return bad === undefined ? null : MODULE_FAULT;
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
  if (state.floors.bootloader < state.floors.fuse) {
    const dead: HandsetState = {
      ...state,
      mode: 'dead',
      ...notRunning,
      lastStart: 'the bootloader is below its fuse',
    };
    return { state: dead, outcome: { result: 'dead' } };
  }
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
  if (fault === MODULE_FAULT && state.loops >= RESTS_AFTER)
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
  const rooted = (state.images[onSlot(profile.rootPartition, slot)]?.patchedBy ?? null) !== null;
  const wasProven = state.slots[slot].proven;
  const begun = state.update?.slot === slot;
  const facts = buildFacts(profile, build);
  const after: HandsetState = {
    ...state,
    mode: 'system',
    active: slot,
    slots: { ...state.slots, [slot]: { bootable: true, proven: true, triesLeft: profile.triesPerSlot } },
    ...(state.writtenSinceStart ? { writtenSinceStart: false } : {}),
    ...notRunning,
    running: { slot, build, rooted },
    loops: 0,
    lastStart: fellBack ? `fell back to slot ${slot}` : `started from slot ${slot}`,
    update: begun ? null : state.update,
    snapshot: begun && state.snapshot === 'waiting' ? 'merging' : state.snapshot,
    // the index is raised at a later start of a slot that had been proven, never at its first
    floors: {
      ...state.floors,
      fuse: Math.max(state.floors.fuse, state.floors.bootloader),
      index: wasProven && state.locked ? Math.max(state.floors.index, facts.index) : state.floors.index,
    },
    data: opened(profile, state.data, build, facts.patchLevel),
    rootApp: rooted && state.rootApp === 'absent' ? 'unfinished' : state.rootApp,
    images: profile.restoresRecovery ? stockRecoveryBack(profile, state, slot) : state.images,
  };
  return { state: after, outcome: { result: 'started', slot, rooted, fellBack } };
}

function opened(profile: HandsetProfile, data: DataState, build: string, patchLevel: string): DataState {
  const newer = data.committedBy === null || compareBuilds(profile, build, data.committedBy) > 0;
  return {
    ...data,
    committedBy: newer ? build : data.committedBy,
    keyLevel: data.keyLevel === null || patchLevel > data.keyLevel ? patchLevel : data.keyLevel,
  };
}

/** Some systems write the stock recovery over any other at their start. */
function stockRecoveryBack(
  profile: HandsetProfile,
  { images, builds }: HandsetState,
  slot: Slot,
): HandsetState['images'] {
  const key = onSlot('recovery', slot);
  const image = profile.recoveryHome === 'recovery' ? images[key] : undefined;
  if (!image?.recovery) return images;
  return {
    ...images,
    [key]: {
      ...image,
      sha256: `stock recovery of ${builds[slot]}`,
      fingerprint: builds[slot],
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
