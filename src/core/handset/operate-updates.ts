import { compareBuilds, onSlot } from './builds';
import type { WholeBuild } from './operate-writes';
import type { Operated } from './operated';
import { done, needMode, refused, SPENT, untried, withoutSystem } from './operated';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { otherSlot } from './state';

/* Updates the system takes by itself, and what becomes of the other slot. */

export interface TakenUpdate extends WholeBuild {
  /** It starts from the installed build's own images and refuses any other. */
  readonly incremental: boolean;
}

const isStock = (image: ImageFacts | undefined, build: string) =>
  image !== undefined &&
  image.broken === null &&
  image.patchedBy === null &&
  !image.recovery &&
  image.digestValid !== false &&
  (image.fingerprint === null || image.fingerprint === build);

/**
 * The system's own update, without its restart. With two slots it goes to the other one, and any restart from
 * then on starts it; with one it is written over the running system at the next start.
 */
export function takeUpdate(
  profile: HandsetProfile,
  state: HandsetState,
  { build, images, incremental }: TakenUpdate,
): Operated {
  return needMode(state, ['system'], () => {
    if (state.snapshot === 'merging') return refused('the last update is still merging', 'merging');
    if (state.update !== null) return refused('an update waits already');
    const slot = state.running!.slot;
    if (compareBuilds(profile, build, state.builds[slot]) <= 0)
      return refused('it is not newer than the installed build', 'not-newer');
    const touched = Object.keys(images).find(
      (partition) =>
        incremental &&
        onSlot(partition, slot) in state.images &&
        !isStock(state.images[onSlot(partition, slot)], state.builds[slot]),
    );
    if (touched !== undefined)
      return refused(
        `an incremental update refuses: ${touched} on slot ${slot} is not the stock image it starts from`,
        'not-stock',
      );
    return done(
      profile.slotCount === 2
        ? toOtherSlot(profile, state, { build, images })
        : overItself(profile, state, { build, images }),
    );
  });
}

function replaced(
  state: HandsetState,
  { build, images }: WholeBuild,
  slot: Slot,
): Pick<HandsetState, 'images' | 'builds'> {
  const put = Object.fromEntries(
    Object.entries(images)
      .map(([partition, image]) => [onSlot(partition, slot), image] as const)
      .filter(([name]) => name in state.images),
  );
  return { images: { ...state.images, ...put }, builds: { ...state.builds, [slot]: build } };
}

function toOtherSlot(profile: HandsetProfile, state: HandsetState, whole: WholeBuild): HandsetState {
  const slot = otherSlot(state.running!.slot);
  return {
    ...state,
    ...replaced(state, whole, slot),
    active: slot,
    keepsRecovery: false,
    slots: { ...state.slots, [slot]: untried(profile) },
    update: { slot, build: whole.build },
    snapshot: profile.mergesUpdates ? 'waiting' : 'none',
  };
}

function overItself(profile: HandsetProfile, state: HandsetState, whole: WholeBuild): HandsetState {
  const { slot } = state.running!;
  return {
    ...state,
    ...replaced(state, whole, slot),
    mode: 'starting',
    keepsRecovery: false,
    running: null,
    rootRequest: 'none',
    slots: { ...state.slots, [slot]: untried(profile) },
  };
}

/** Only until it was started: then it merges, and there is nothing to call off. */
export function cancelUpdate(state: HandsetState): Operated {
  return needMode(state, ['system', 'bootloader'], () => {
    if (state.snapshot === 'merging') return refused('it was started already and is merging');
    if (state.update === null) return refused('no update waits');
    const { slot } = state.update;
    return done({
      ...state,
      update: null,
      snapshot: 'none',
      active: otherSlot(slot),
      slots: { ...state.slots, [slot]: SPENT },
    });
  });
}

/** After merging the old slot's system is gone, whatever its boot images are. */
export function waitForMerge(state: HandsetState): Operated {
  return needMode(state, ['system'], () => {
    if (state.snapshot !== 'merging') return refused('nothing is merging');
    const old = otherSlot(state.running!.slot);
    return done({
      ...state,
      snapshot: 'none',
      slots: withoutSystem({ ...state.slots, [old]: SPENT }, old),
    });
  });
}

export function setActive(profile: HandsetProfile, state: HandsetState, slot: Slot): Operated {
  return needMode(state, ['bootloader', 'userspace'], () => {
    if (profile.slotCount === 1) return refused('it has one slot');
    if (state.locked) return refused('the bootloader is locked');
    if (state.snapshot === 'merging')
      return refused('an update is merging: the other slot is no system any more');
    return done({
      ...state,
      active: slot,
      slots: {
        ...state.slots,
        // its tries are armed again; a system that is gone does not come back by that
        [slot]: { ...state.slots[slot], ...untried(profile) },
      },
    });
  });
}
