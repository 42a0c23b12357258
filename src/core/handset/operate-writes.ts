import { slotOf, unslotted } from '../text/partition-names';
import { buildFacts, compareBuilds, onSlot } from './builds';
import { ONLY_READS, opensData, recoveryImage } from './operate-modes';
import type { Operated } from './operated';
import { done, needMode, needRoot, notRunning, refused, untried, wiped } from './operated';
import { start } from './start';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from './state';
import { otherSlot, SLOTS } from './state';
import { recordAfterWrite } from './tamper-record';

/* Whatever puts bytes on the handset. Physics only: what should not be done is the gates' business. */

/** A whole build: the images of one slot, without slots in their names. */
export interface WholeBuild {
  readonly build: string;
  readonly images: Readonly<Record<string, ImageFacts>>;
}

const WRITES_NOTHING = 'its bootloader writes nothing: it is written in download mode';

/** (c) What the maker’s tools still write, whichever way they do. */
const belowMaker = (profile: HandsetProfile, build: string): string | null =>
  profile.makerFloor !== null &&
  buildFacts(profile, build).patchLevel.slice(0, 7) < profile.makerFloor.slice(0, 7)
    ? 'below the maker’s floor for writes'
    : null;

/** What is not the maker's is shut out by some bootloaders, unlocked or not. */
function shutsOut(profile: HandsetProfile, { images, builds, active }: HandsetState): string | null {
  const { looseBuilds } = profile;
  const build = images[onSlot('bootloader', active)]?.fingerprint ?? builds[active];
  return looseBuilds.length === 0 || looseBuilds.includes(build)
    ? null
    : 'its bootloader takes the maker’s own images only';
}

const isForeign = ({ patchedBy, recovery }: ImageFacts) => patchedBy !== null || (recovery ?? null) !== null;

/** A write to the other slot does not undo what was seen of the active one. */
const onActive = ({ active }: HandsetState, partition: string) => [null, active].includes(slotOf(partition));

/** What keeps an image out where it comes from outside; null where nothing does, or root writes it. */
function fromOutside(profile: HandsetProfile, state: HandsetState, image: ImageFacts): string | null {
  if (state.mode === 'bootloader' && !profile.bootloaderWrites) return WRITES_NOTHING;
  if (state.mode !== 'system' && state.locked) return 'the bootloader is locked';
  return state.mode === 'bootloader' && isForeign(image) ? shutsOut(profile, state) : null;
}

export function write(
  profile: HandsetProfile,
  state: HandsetState,
  partition: string,
  image: ImageFacts,
): Operated {
  return needMode(state, ['bootloader', 'system', 'userspace', 'recovery'], () => {
    const shut = fromOutside(profile, state, image);
    if (shut !== null) return refused(shut);
    if (state.mode === 'system' && state.rootRequest !== 'granted') return refused('root was not granted');
    if (state.mode === 'recovery' && state.recoveryReads) return refused(ONLY_READS);
    if (state.mode === 'recovery' && !recoveryImage(profile, state)?.recovery)
      return refused('the stock recovery writes no images');
    const base = unslotted(partition);
    const room = profile.partitionBytes[base];
    const place = wrongPlace(profile, state, base);
    if (place !== null) return refused(place);
    if (room === undefined || !(partition in state.images))
      return refused(`there is no partition ${partition}`);
    if (image.sizeBytes > room)
      return refused(`${partition} holds ${room} bytes, the image has ${image.sizeBytes}`);
    // a write says nothing about the slot: proven stays proven, so a bad image written later has no way out
    const written = {
      ...state,
      images: { ...state.images, [partition]: image },
      ...(onActive(state, partition) ? { writtenSinceStart: true } : {}),
      record: recordAfterWrite(profile, state.record, isForeign(image)),
    };
    return done({ ...written, ...whatItBrings(profile, state, partition, image) });
  });
}

/**
 * Bootloader and radio are written from the bootloader only, logical partitions from user-space flashing
 * only.
 */
function wrongPlace({ logical }: HandsetProfile, { mode }: HandsetState, base: string): string | null {
  if (mode === 'bootloader' && logical.includes(base))
    return `${base} is a logical partition: it is written from user-space flashing`;
  if (mode === 'userspace' && (base === 'bootloader' || base === 'radio'))
    return `${base} is written from the bootloader only`;
  return null;
}

/** A new system is another build on its slot, not started yet; a bootloader brings its level. */
function whatItBrings(
  profile: HandsetProfile,
  { builds, slots, floors }: HandsetState,
  partition: string,
  { fingerprint }: ImageFacts,
): Partial<HandsetState> {
  const [base, slot] = [partition.slice(0, -2), partition.slice(-1) as Slot];
  if (fingerprint === null) return {};
  if (base === 'system')
    return { builds: { ...builds, [slot]: fingerprint }, slots: { ...slots, [slot]: untried(profile) } };
  return base === 'bootloader'
    ? { floors: { ...floors, bootloader: buildFacts(profile, fingerprint).bootloader } }
    : {};
}

function onSlots(
  state: HandsetState,
  { build, images }: WholeBuild,
  slots: readonly Slot[],
): Pick<HandsetState, 'images' | 'builds'> {
  const put: Record<string, ImageFacts> = {};
  for (const slot of slots)
    for (const [partition, image] of Object.entries(images))
      if (onSlot(partition, slot) in state.images) put[onSlot(partition, slot)] = image;
  return {
    images: { ...state.images, ...put },
    ...(Object.keys(put).some((name) => onActive(state, name)) ? { writtenSinceStart: true } : {}),
    builds: { ...state.builds, ...Object.fromEntries(slots.map((slot) => [slot, build])) },
  };
}

/** Every partition of a build from the computer, bootloader and radio too. */
export function writeBuild(
  profile: HandsetProfile,
  state: HandsetState,
  whole: WholeBuild,
  options: { readonly both: boolean; readonly wipe: boolean },
): Operated {
  return needMode(state, ['bootloader'], () => {
    if (!profile.bootloaderWrites) return refused(WRITES_NOTHING);
    if (state.locked) return refused('the bootloader is locked');
    const low = belowMaker(profile, whole.build);
    if (low !== null) return refused(low);
    if (state.snapshot !== 'none') return refused(`an update is ${state.snapshot}`);
    const shut = Object.values(whole.images).some(isForeign) ? shutsOut(profile, state) : null;
    if (shut !== null) return refused(shut);
    const slots = options.both && profile.slotCount === 2 ? SLOTS : [state.active];
    const level = buildFacts(profile, whole.build).bootloader;
    const written: HandsetState = {
      ...state,
      ...onSlots(state, whole, slots),
      update: null,
      keepsRecovery: false,
      slots: { ...state.slots, ...Object.fromEntries(slots.map((slot) => [slot, untried(profile)])) },
      floors: { ...state.floors, bootloader: level },
      record: recordAfterWrite(
        profile,
        state.record,
        Object.values(whole.images).some(isForeign),
        Object.keys(whole.images).filter((partition) => onSlot(partition, state.active) in state.images)
          .length * slots.length,
      ),
    };
    return done(options.wipe ? wiped(written) : written);
  });
}

/** What download mode takes no image of; null where it takes it. */
function notInDownload(profile: HandsetProfile, state: HandsetState, image: ImageFacts): string | null {
  if (isForeign(image)) {
    if (state.locked) return 'the bootloader is locked and takes the maker’s own only';
    const shut = shutsOut(profile, state);
    if (shut !== null) return shut;
  }
  return image.fingerprint === null ? null : notThisBuild(profile, state, image.fingerprint);
}
function notThisBuild(profile: HandsetProfile, { floors }: HandsetState, build: string): string | null {
  return (
    belowMaker(profile, build) ??
    (buildFacts(profile, build).bootloader < floors.fuse ? 'its bootloader is below the fuse' : null)
  );
}

/**
 * One image of a firmware set in download mode: judged and written as it comes, whatever becomes of the
 * rest.
 * @param base the partition, without a slot
 */
export function writeSetPart(
  profile: HandsetProfile,
  state: HandsetState,
  base: string,
  image: ImageFacts,
): Operated {
  return needMode(state, ['download'], () => {
    const partition = onSlot(base, state.active);
    const room = profile.partitionBytes[base];
    if (room === undefined || !(partition in state.images)) return refused(`there is no partition ${base}`);
    if (image.sizeBytes > room)
      return refused(`${base} holds ${room} bytes, the image has ${image.sizeBytes}`);
    if (image.broken !== null) return refused(`${base}: ${image.broken}`);
    const shut = notInDownload(profile, state, image);
    if (shut !== null) return refused(shut);
    return done({
      ...state,
      images: { ...state.images, [partition]: image },
      writtenSinceStart: true,
      record: recordAfterWrite(profile, state.record, isForeign(image)),
      ...whatItBrings(profile, state, partition, image),
    });
  });
}

/**
 * The end of a firmware set: its region part keeps or wipes, and the handset starts by itself.
 * @param build the one that the set named; null where it named none
 */
export function endSet(
  profile: HandsetProfile,
  state: HandsetState,
  build: string | null,
  keepData: boolean,
): Operated {
  return needMode(state, ['download'], () => {
    const starting: HandsetState = { ...state, ...notRunning, mode: 'starting', keepsRecovery: false };
    const ended =
      build === null
        ? starting
        : {
            ...starting,
            builds: { ...state.builds, [state.active]: build },
            slots: { ...state.slots, [state.active]: untried(profile) },
            floors: { ...state.floors, bootloader: buildFacts(profile, build).bootloader },
          };
    return done(keepData ? ended : wiped(ended));
  });
}

/** A firmware set in download mode, from its first image to its end. */
export function writeSet(
  profile: HandsetProfile,
  state: HandsetState,
  { build, images }: WholeBuild,
  keepData: boolean,
): Operated {
  return needMode(state, ['download'], () => {
    const low = notThisBuild(profile, state, build);
    if (low !== null) return refused(low);
    let at: Operated = done(state);
    for (const [partition, image] of Object.entries(images)) {
      if (!at.ok) return at;
      if (onSlot(partition, state.active) in state.images)
        at = writeSetPart(profile, at.state, partition, image);
    }
    return at.ok ? endSet(profile, at.state, build, keepData) : at;
  });
}

/** A package through the stock recovery; it needs no unlocking and takes the maker's own only. */
export function sideload(profile: HandsetProfile, state: HandsetState, whole: WholeBuild): Operated {
  return needMode(state, ['sideload'], () => {
    if (state.snapshot !== 'none') return refused(`an update is ${state.snapshot}`);
    const at = state.builds[state.active];
    const down = compareBuilds(profile, whole.build, at) < 0;
    const edge = profile.sideloadsDown.find((one) => one.from === at && one.to === whole.build);
    if (down && !edge) return refused('it is older than the installed build');
    if (down && edge?.bootloader !== undefined && state.floors.bootloader > edge.bootloader)
      return refused('it is let in with an older bootloader only');
    if (buildFacts(profile, whole.build).bootloader < state.floors.fuse)
      return refused('its bootloader is below the fuse');
    const slot = profile.slotCount === 2 ? otherSlot(state.active) : state.active;
    const written: HandsetState = {
      ...state,
      ...onSlots(state, whole, [slot]),
      mode: 'recovery',
      active: slot,
      keepsRecovery: false,
      slots: { ...state.slots, [slot]: untried(profile) },
      // what the update overwrites goes with its merge; over fresh data there is nothing to go back to
      ...(profile.slotCount === 2 && profile.mergesUpdates && !down
        ? { update: { slot, build: whole.build }, snapshot: 'waiting' as const }
        : {}),
    };
    // the maker lets an older build in only over fresh data
    return done(down ? wiped(written) : written);
  });
}

/** A package through a custom recovery: it changes images of the active slot and nothing else. */
export function installZip(
  profile: HandsetProfile,
  state: HandsetState,
  partition: string,
  image: ImageFacts,
): Operated {
  return needMode(state, ['recovery'], () => {
    if (!recoveryImage(profile, state)?.recovery)
      return refused('the stock recovery takes the maker’s packages only');
    const shut = opensData(profile, state);
    if (shut !== null) return refused(`${shut}, so it sees no package`);
    return write(profile, state, onSlot(partition, state.active), image);
  });
}

/** Starts an image from memory, once; nothing on the handset changes. */
export function startOnce(profile: HandsetProfile, state: HandsetState, image: ImageFacts): Operated {
  return needMode(state, ['bootloader'], () => {
    if (state.locked) return refused('the bootloader is locked');
    if (!profile.startsOnce) return refused('its bootloader starts nothing from memory');
    const shut = isForeign(image) ? shutsOut(profile, state) : null;
    if (shut !== null) return refused(shut);
    if (profile.rootPartition !== 'boot')
      return refused(`only boot is started from memory, and root sits in ${profile.rootPartition}`);
    const key = onSlot(profile.rootPartition, state.active);
    const held = {
      ...state.slots,
      [state.active]: { ...state.slots[state.active], bootable: true, proven: true },
    };
    const tried = start(profile, { ...state, slots: held, images: { ...state.images, [key]: image } });
    // whatever came of it, the disk is as it was: the next start is from there
    if (tried.outcome.result !== 'started')
      return done({ ...state, ...notRunning, mode: 'looping', loops: 1, lastStart: tried.state.lastStart });
    return done({ ...tried.state, images: state.images, lastStart: 'started from memory' });
  });
}

/** A recovery from memory: it is there until the handset leaves it, and the disk keeps its own. */
export function startRecoveryOnce(profile: HandsetProfile, state: HandsetState, image: ImageFacts): Operated {
  return needMode(state, ['bootloader'], () => {
    if (state.locked) return refused('the bootloader is locked');
    if (!profile.startsOnce) return refused('its bootloader starts nothing from memory');
    const shut = shutsOut(profile, state);
    if (shut !== null) return refused(shut);
    if (image.broken !== null) return refused(`this recovery cannot start: ${image.broken}`);
    if (!image.recovery) return refused('this is no custom recovery');
    return done({ ...state, ...notRunning, mode: 'recovery', loops: 0, fromMemory: image });
  });
}

/** Root on the running system writes a patched image to the slot it runs from, or to the one that waits. */
export function patchFromInside(
  profile: HandsetProfile,
  state: HandsetState,
  which: 'running slot' | 'other slot',
  image: ImageFacts,
): Operated {
  return needRoot(state, () => {
    const slot = which === 'running slot' ? state.running!.slot : otherSlot(state.running!.slot);
    if (which === 'other slot' && state.update?.slot !== slot)
      return refused('no update waits on the other slot');
    if (image.fingerprint !== state.builds[slot])
      return refused(`the image is not of the build on slot ${slot}`);
    return done({
      ...state,
      images: { ...state.images, [onSlot(profile.rootPartition, slot)]: image },
      record: recordAfterWrite(profile, state.record, isForeign(image)),
    });
  });
}
