import { compareBuilds, onSlot } from '../handset/builds';
import type { HandsetOperation } from '../handset/operate';
import { otherSlot } from '../handset/state';
import {
  belowOrUnknown,
  buildAtActive,
  flagsFor,
  hasHost,
  needPatched,
  needWayBack,
  needWhole,
  onHandset,
  overAnUpdate,
  withRecoveryThere,
  blowsFuse,
} from './action-kit';
import type { PlanContext, PlanState } from './context';
import { hasMade, patchedImage, wholeBuild } from './context';

/* Updates taken on the handset, whole builds, sets of download mode and packages by sideload. */

export const UPDATE_ACTIONS = {
  'take-full-update': onHandset(
    {
      title: 'Take the whole update, without a restart',
      minutes: [8, 20],
      risk: 0.5,
      offers: 2,
      downloads: 1,
      who: 'handset',
    },
    (context) =>
      context.fullPackages.includes(context.target)
        ? [
            {
              do: 'take-update',
              update: { ...wholeBuild(context, context.target, false), incremental: false },
            },
          ]
        : 'no full package of the new build can be had',
  ),
  'take-update': onHandset(
    { title: 'Take the update, without a restart', minutes: [6, 15], risk: 0.5, offers: 2, who: 'handset' },
    (context) =>
      context.incrementalTo.includes(context.target)
        ? [
            {
              do: 'take-update',
              update: { ...wholeBuild(context, context.target, false), incremental: true },
            },
          ]
        : 'no update to this build is offered',
  ),
  'patch-other-slot': onHandset(
    {
      title: 'Patch the other slot, without a restart',
      minutes: [1, 2],
      risk: 1,
      writes: true,
      offers: 2,
      who: 'root',
    },
    (context, state) => {
      const { handset } = state;
      if (context.kit === null) return 'no kit supports this release and partition';
      if (blowsFuse(context)) return 'writing a patched image blows the fuse';
      return handset.update
        ? [
            ...flagsFor(context, state, handset.update.slot, handset.update.build),
            {
              do: 'patch-from-inside',
              which: 'other slot',
              image: withRecoveryThere(
                context,
                handset.images[onSlot(context.profile.recoveryHome, handset.update.slot)],
                patchedImage(context, handset.update.build),
              ),
            },
          ]
        : 'no update waits';
    },
  ),
  merge: onHandset({ title: 'Wait until it has merged', minutes: [10, 30], who: 'handset' }, () => [
    { do: 'wait-for-merge' },
  ]),
  'cancel-update': onHandset(
    { title: 'Call the waiting update off', minutes: [1, 2], who: 'handset' },
    (_context, { handset }) =>
      handset.mode === 'system' ? [{ do: 'cancel-update' }] : 'it is called off in its running system',
  ),
  'other-slot': onHandset(
    { title: 'Select the other slot', minutes: [0.5, 1], risk: 1 },
    (_context, { handset }) => [{ do: 'set-active', slot: otherSlot(handset.active) }],
  ),
  'same-slot': onHandset(
    { title: 'Select the slot once more', minutes: [0.5, 1], risk: 0.2 },
    ({ goal }, { handset }) =>
      goal === 'repair'
        ? [{ do: 'set-active', slot: handset.active }]
        : 'only a repair selects the slot that is active',
  ),
  'write-build': onHandset(
    { title: 'Write the whole build, without wiping', minutes: [8, 20], risk: 3, writes: true, fileTrips: 1 },
    (context, state) => wholeWrite(context, state, false),
  ),
  'write-build-both': onHandset(
    {
      title: 'Write the whole build to both slots, without wiping',
      minutes: [14, 30],
      risk: 3,
      writes: true,
      fileTrips: 1,
    },
    (context, state) => wholeWrite(context, state, false, true),
  ),
  'write-build-patched': onHandset(
    {
      title: 'Write the whole build with the patched image in it, without wiping',
      minutes: [8, 20],
      risk: 3,
      writes: true,
      fileTrips: 1,
    },
    (context, state) => wholeWrite(context, state, true),
  ),
  'write-set-patched': onHandset(
    {
      title: 'Write the firmware set with the patched archive, keeping data',
      minutes: [6, 15],
      risk: 3,
      writes: true,
      fileTrips: 1,
    },
    (context, state) => setWrite(context, state, true),
  ),
  'write-set': onHandset(
    { title: 'Write the firmware set, keeping data', minutes: [6, 15], risk: 3, writes: true, fileTrips: 1 },
    (context, state) => setWrite(context, state, false),
  ),
  'write-set-wipe': onHandset(
    {
      title: 'Write the firmware set, its region part erases data',
      minutes: [6, 15],
      risk: 3,
      writes: true,
      fileTrips: 1,
    },
    (context, state) =>
      !context.limits.wipeAllowed
        ? 'its region part erases everything, and nothing may be erased'
        : state.handset.data.wipes > context.start.data.wipes
          ? 'its data is empty already'
          : setWrite(context, state, true, true),
  ),
  sideload: onHandset(
    { title: 'Send the package by sideload', minutes: [12, 25], risk: 1, writes: true, fileTrips: 1 },
    (context, state) => {
      if (!hasHost(context)) return 'no computer is at hand';
      if (!hasMade(state, `package ${context.target}`)) return 'its package is not open';
      const { profile, limits } = context;
      const down = compareBuilds(profile, context.target, buildAtActive(state)) < 0;
      if (down && !limits.wipeAllowed) return 'going down erases everything, and nothing may be erased';
      return [{ do: 'sideload', whole: wholeBuild(context, context.target, false) }];
    },
  ),
} as const;

function wholeWrite(
  context: PlanContext,
  state: PlanState,
  patched: boolean,
  both = false,
): readonly HandsetOperation[] | string {
  const { target } = context;
  const missing =
    overAnUpdate(state) ??
    needWhole(state, target) ??
    needWayBack(context, state) ??
    belowOrUnknown(context, state);
  if (missing !== null) return missing;
  const unpatched = patched ? needPatched(context, state, target) : null;
  return unpatched ?? [{ do: 'write-build', whole: wholeBuild(context, target, patched), both, wipe: false }];
}

function setWrite(
  context: PlanContext,
  state: PlanState,
  patched: boolean,
  wipe = false,
): readonly HandsetOperation[] | string {
  const { target } = context;
  const missing =
    overAnUpdate(state) ??
    needWhole(state, target) ??
    needWayBack(context, state) ??
    belowOrUnknown(context, state);
  if (missing !== null) return missing;
  const unpatched = patched ? needPatched(context, state, target) : null;
  return unpatched ?? [{ do: 'write-set', whole: wholeBuild(context, target, patched), keepData: !wipe }];
}
