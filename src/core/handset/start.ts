import type { HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { otherSlot } from './state';

export type StartOutcome =
  | { readonly result: 'started'; readonly slot: Slot; readonly rooted: boolean; readonly fellBack: boolean }
  | { readonly result: 'loops'; readonly slot: Slot };

/** Why a slot's image keeps the handset from starting, or null when it starts. */
export function startFault(profile: HandsetProfile, state: HandsetState, slot: Slot): string | null {
  const image: ImageFacts | undefined = state.images[`${profile.rootPartition}_${slot}`];
  const name = `${profile.rootPartition} on slot ${slot}`;
  if (!state.slots[slot].bootable) return `slot ${slot} is marked as not bootable`;
  if (!image) return `${name} is empty`;
  if (image.broken !== null) return `${name}: ${image.broken}`;
  if (state.locked && (image.digestValid !== true || image.patchedBy !== null)) return `${name} is not the maker's, and the bootloader is locked`;
  if (profile.strictRamdisk && image.fingerprint !== state.builds[slot]) {
    return `${name} belongs to ${image.fingerprint ?? 'no build that it names'}, the system on this slot is ${state.builds[slot]}`;
  }
  return null;
}

function succeed(profile: HandsetProfile, state: HandsetState, slot: Slot, fellBack: boolean): { state: HandsetState; outcome: StartOutcome } {
  const rooted = (state.images[`${profile.rootPartition}_${slot}`]?.patchedBy ?? null) !== null;
  return {
    state: {
      ...state,
      mode: 'system',
      active: slot,
      slots: { ...state.slots, [slot]: { bootable: true, proven: true, triesLeft: profile.triesPerSlot } },
      running: { slot, build: state.builds[slot], rooted },
      rootRequest: 'none',
      loops: 0,
      lastStart: fellBack ? `fell back to slot ${slot}` : `started from slot ${slot}`,
    },
    outcome: { result: 'started', slot, rooted, fellBack },
  };
}

/**
 * One press of the power key, to its end. An unproven slot spends its tries and then gives way to the other slot, if that one is bootable
 * and whole; a proven slot has no such net and loops (docs/method.md, "What a start does").
 */
export function start(profile: HandsetProfile, state: HandsetState): { state: HandsetState; outcome: StartOutcome } {
  const slot = state.active;
  const fault = startFault(profile, state, slot);
  if (fault === null) return succeed(profile, state, slot, false);
  const { proven } = state.slots[slot];
  const other = otherSlot(slot);
  if (!proven) {
    const spent: HandsetState = { ...state, slots: { ...state.slots, [slot]: { ...state.slots[slot], triesLeft: 0, bootable: false } } };
    if (startFault(profile, spent, other) === null) return succeed(profile, spent, other, true);
    return loop(spent, slot, fault);
  }
  return loop(state, slot, fault);
}

function loop(state: HandsetState, slot: Slot, fault: string): { state: HandsetState; outcome: StartOutcome } {
  return {
    state: { ...state, mode: 'looping', running: null, rootRequest: 'none', loops: state.loops + 1, lastStart: fault },
    outcome: { result: 'loops', slot },
  };
}
