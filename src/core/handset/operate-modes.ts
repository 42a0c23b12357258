import { buildFacts, onSlot } from './builds';
import type { Operated } from './operated';
import { done, needMode, notRunning, refused, settled, wiped } from './operated';
import { recoveryFault } from './start';
import type { HandsetProfile, HandsetState, Slot } from './state';
import { SLOTS } from './state';
import { recordAfterUnlock } from './tamper-record';

/* Modes, lock state and settings. */

const inMode = (state: HandsetState, mode: HandsetState['mode']): Operated =>
  done({ ...state, ...notRunning, mode, loops: 0 });

/** Said of a recovery that was not let change the system. */
export const ONLY_READS = 'this recovery only reads: it was not let change the system';

/** The recovery that runs from memory, else the one that lies on the active slot. */
export function recoveryImage(profile: HandsetProfile, state: HandsetState) {
  return state.fromMemory ?? state.images[onSlot(profile.recoveryHome, state.active)];
}

export function enterRecovery(profile: HandsetProfile, state: HandsetState): Operated {
  return needMode(state, ['off', 'system', 'bootloader', 'userspace', 'looping', 'sideload'], () => {
    const fault = state.fromMemory === null ? recoveryFault(profile, state) : null;
    if (fault !== null) return refused(`its recovery cannot start: ${fault}`);
    const own = state.images[onSlot(profile.recoveryHome, state.active)]?.recovery ?? null;
    const entered = inMode(state, 'recovery');
    const runs = own ?? state.fromMemory?.recovery ?? null;
    // until somebody answers it, it only reads
    if (entered.ok && profile.recoveryAsks && runs !== null)
      return done({ ...entered.state, recoveryReads: true });
    // a recovery of one's own, once it runs, keeps the system from putting the maker's back
    return entered.ok && profile.restoresRecovery && own !== null && state.fromMemory === null
      ? done({ ...entered.state, keepsRecovery: true })
      : entered;
  });
}

/** It runs from recovery's ramdisk. */
export function enterUserspace(profile: HandsetProfile, state: HandsetState): Operated {
  if (!profile.hasUserspace) return refused('this handset has no user-space flashing');
  return needMode(state, ['bootloader', 'recovery'], () => {
    const fault = recoveryFault(profile, state);
    return fault === null
      ? inMode(state, 'userspace')
      : refused(`user-space flashing runs from recovery, and that cannot start: ${fault}`);
  });
}

export function enterDownload(profile: HandsetProfile, state: HandsetState): Operated {
  if (!profile.hasDownload) return refused('this handset has no download mode');
  return needMode(state, ['off', 'system', 'looping', 'bootloader'], () => inMode(state, 'download'));
}

export function enterSideload(profile: HandsetProfile, state: HandsetState): Operated {
  return needMode(state, ['recovery'], () =>
    recoveryImage(profile, state)?.recovery
      ? refused('this recovery installs packages from its own menu')
      : inMode(state, 'sideload'),
  );
}

/** Where a chord of keys asks to unlock: in download mode, or in the bootloader where there is none. */
const unlocksIn = ({ unlockPath, hasDownload }: HandsetProfile) =>
  unlockPath === 'key chord' && hasDownload ? 'download' : 'bootloader';

/** Erases everything; afterwards nothing trusts this computer any more. */
export function unlock(profile: HandsetProfile, state: HandsetState, code: string | null): Operated {
  return needMode(state, [unlocksIn(profile)], () => {
    if (!state.locked) return refused('it is unlocked already');
    if (profile.unlockPath === 'none')
      return refused('its maker, carrier or country does not let it be unlocked');
    if (state.unlockSwitch !== 'on') return refused(`its unlock switch is ${state.unlockSwitch}`);
    if (profile.unlockPath === 'mailed code' && profile.unlockCode !== null && code !== profile.unlockCode)
      return refused(code === null ? 'it wants the code that its maker mails' : 'this is not its code');
    return done({
      ...wiped(state),
      ...notRunning,
      record: recordAfterUnlock(profile, state.record),
      locked: false,
      mode: unlocksIn(profile) === 'download' ? 'off' : 'bootloader',
    });
  });
}

/** Whether everything verified on a slot is the maker's, of one build, at or above the stored index. */
function makersOwn(profile: HandsetProfile, state: HandsetState, slot: Slot): boolean {
  const build = state.builds[slot];
  const images = Object.entries(state.images).filter(([name]) => name.endsWith(`_${slot}`));
  return (
    buildFacts(profile, build).index >= state.floors.index &&
    images.every(
      ([, image]) =>
        image.broken === null &&
        image.patchedBy === null &&
        !image.recovery &&
        (image.fingerprint === null || image.fingerprint === build),
    )
  );
}

/** Why a handset that is locked as it is would not start again; null where it would. */
export function lockHarm(profile: HandsetProfile, state: HandsetState): string | null {
  if (state.snapshot !== 'none') return `an update is ${state.snapshot}`;
  const slots = profile.slotCount === 2 ? SLOTS : (['a'] as const);
  const bad = slots.find((slot) => !makersOwn(profile, state, slot));
  if (bad !== undefined)
    return `slot ${bad} does not hold the maker's own images of one build: locked, it would never start again`;
  if (new Set(slots.map((slot) => state.builds[slot])).size > 1) return 'the two slots hold different builds';
  if (!state.slots[state.active].proven || state.writtenSinceStart)
    return 'it was not started once while unlocked';
  return null;
}

/**
 * Relocking wipes, then signature and index count again. The bootloader asks nothing: over what is not the
 * maker's it locks too, and then it does not start.
 */
export function lock(state: HandsetState): Operated {
  return needMode(state, ['bootloader'], () =>
    state.locked
      ? refused('it is locked already')
      : done({ ...wiped(state), ...notRunning, locked: true, mode: 'bootloader' }),
  );
}

export function setUnlockSwitch(state: HandsetState): Operated {
  return needMode(state, ['system'], () =>
    state.unlockSwitch === 'off' || state.unlockSwitch === 'on'
      ? done({ ...state, unlockSwitch: 'on' })
      : refused(`the switch is ${state.unlockSwitch}`),
  );
}

/**
 * Four different things: the cache only; everything but the storage and its keys; everything; everything, and
 * its encryption.
 */
export type WipeKind = 'cache' | 'keep storage' | 'factory' | 'format';

/** A custom recovery sees the data only where it opens this release's encryption. */
export function opensData(profile: HandsetProfile, state: HandsetState): string | null {
  const own = recoveryImage(profile, state)?.recovery;
  if (!own) return 'the stock recovery opens no data';
  return state.data.encrypted && own.opensUpTo < buildFacts(profile, state.builds[state.active]).sdk
    ? `${own.name} does not open this release’s storage`
    : null;
}

/** A stock recovery settles an update that waits or merges first; everything else tears it. */
export function wipe(profile: HandsetProfile, state: HandsetState, kind: WipeKind): Operated {
  return needMode(state, ['recovery', 'bootloader'], () => {
    if (kind === 'cache') return done(state);
    if (state.recoveryReads && state.mode === 'recovery') return refused(ONLY_READS);
    const settles = state.mode === 'recovery' && !recoveryImage(profile, state)?.recovery;
    const after = wiped(settles ? settled(state) : state);
    if (kind === 'factory') return done(after);
    if (kind === 'format') return done({ ...after, data: { ...after.data, encrypted: false } });
    const shut =
      state.mode === 'bootloader'
        ? 'the bootloader does not tell storage from the rest'
        : opensData(profile, state);
    // the storage stays, so its keys do, and what they are bound to
    return shut === null
      ? done({ ...after, data: { ...after.data, keyLevel: state.data.keyLevel } })
      : refused(shut);
  });
}

/** What its own recovery asks: whether it may change the system, and whether the maker's may come back. */
export function answerRecovery(
  profile: HandsetProfile,
  state: HandsetState,
  { asks, yes }: { readonly asks: 'changes' | 'keep mine'; readonly yes: boolean },
): Operated {
  return needMode(state, ['recovery'], () => {
    if (!recoveryImage(profile, state)?.recovery) return refused('the stock recovery asks nothing');
    const { recoveryReads: _reads, ...rest } = state;
    if (asks === 'changes') return done(yes ? rest : state);
    return done(yes ? { ...state, keepsRecovery: true } : state);
  });
}

/** Nothing changes on the handset. */
export function imageData(profile: HandsetProfile, state: HandsetState): Operated {
  return needMode(state, ['recovery'], () => {
    const shut = opensData(profile, state);
    return shut === null ? done(state) : refused(shut);
  });
}
