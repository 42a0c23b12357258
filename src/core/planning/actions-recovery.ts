import { onSlot } from '../handset/builds';
import { opensData, recoveryImage } from '../handset/operate-modes';
import {
  buildAtActive,
  flagsFor,
  needPatched,
  needRebuilt,
  needWayBack,
  onHandset,
  overAnUpdate,
  recoveryFlagsFor,
  blowsFuse,
} from './action-kit';
import type { GoalId, PlanContext, PlanState } from './context';
import {
  hasMade,
  NO_RECOVERY,
  noRecoveryPlace,
  onlyBootFromMemory,
  patchedImage,
  customRecovery,
  runsNow,
} from './context';

/*
 * What goes by way of a recovery, what root does with packages and recoveries from inside, and patching on
 * the handset itself.
 */

const madeThere = (which: 'active' | 'target') =>
  onHandset(
    {
      title: 'Patch the image on the handset and fetch it back',
      minutes: [4, 10],
      fileTrips: 2,
      who: 'handset',
    },
    ({ limits, kit, target }, state) => {
      const build = which === 'active' ? buildAtActive(state) : target;
      if (!limits.patchThere) return 'it is patched here';
      if (kit === null) return 'no kit supports this release and partition';
      if (hasMade(state, `patched ${build}`)) return 'it is made already';
      if (!hasMade(state, `stock ${build}`)) return 'its stock image is not in the vault';
      return state.handset.mode === 'system' && state.handset.settings.debugging
        ? []
        : 'its system does not run, or does not trust this computer';
    },
    ({ target }, state) => [`patched ${which === 'active' ? buildAtActive(state) : target}`],
  );

export const RECOVERY_ACTIONS = {
  'patch-there': madeThere('active'),
  'patch-target-there': madeThere('target'),
  'recovery-once': onHandset(
    { title: 'Start the recovery once, from memory', minutes: [1, 2], risk: 0.2 },
    (context, state) =>
      context.recovery
        ? (onlyBootFromMemory(context) ?? [
            { do: 'start-recovery-once', image: customRecovery(context, buildAtActive(state)) },
          ])
        : NO_RECOVERY,
  ),
  'back-up-image': onHandset(
    { title: 'Take an image of its data through the recovery', minutes: [10, 30], fileTrips: 1 },
    (context, state) => {
      if (!context.limits.imageBackup) return 'no image of the data is wanted';
      if (hasMade(state, IMAGE_OF_DATA)) return 'it is taken already';
      const root = onSlot(context.profile.rootPartition, state.handset.active);
      const untouched =
        state.handset.data.wipes === context.start.data.wipes &&
        buildAtActive(state) === runsNow(context) &&
        state.handset.images[root]?.sha256 === context.start.images[root]?.sha256;
      return untouched ? [{ do: 'image-data' }] : 'it comes before anything else is changed';
    },
    () => [IMAGE_OF_DATA],
  ),
  'recovery-inside': onHandset(
    {
      title: 'Write the recovery from inside, with root',
      minutes: [1, 2],
      risk: 1,
      writes: true,
      who: 'root',
    },
    (context, state) => {
      const { handset } = state;
      const { recovery, profile } = context;
      if (!recovery) return NO_RECOVERY;
      if (blowsFuse(context)) return 'writing a recovery blows the fuse';
      // what an update brings is kept as it is read out of the slot that waits
      const kept = handset.update === null ? needWayBack(context, state) : null;
      const shut = noRecoveryPlace(context) ?? kept;
      if (shut !== null) return shut;
      if (handset.running === null) return 'nothing runs';
      const slot = handset.update?.slot ?? handset.running.slot;
      const partition = onSlot(profile.recoveryHome, slot);
      if (handset.images[partition]?.recovery) return 'it is there already';
      const readOut = handset.update !== null && context.rebuildsRecovery === 'from the slot too';
      const missing = readOut ? null : needRebuilt(context, state, handset.builds[slot]);
      if (missing !== null) return missing;
      return [
        ...recoveryFlagsFor(context, state, slot, handset.builds[slot]),
        { do: 'write', partition, image: customRecovery(context, handset.builds[slot]) },
      ];
    },
  ),
  'zip-inside': onHandset(
    {
      title: 'Install the kit from the running system',
      minutes: [2, 4],
      risk: 0.5,
      writes: true,
      fileTrips: 1,
      who: 'root',
    },
    (context, state) => {
      const { running } = state.handset;
      if (running === null) return 'nothing runs';
      return (
        needPatched(context, state, running.build) ?? [
          ...flagsFor(context, state, running.slot, running.build),
          { do: 'patch-from-inside', which: 'running slot', image: patchedImage(context, running.build) },
        ]
      );
    },
  ),
  'erase-cache': onHandset(
    { title: 'Erase the cache', minutes: [0.5, 2], who: 'handset' },
    (_context, state) =>
      hasMade(state, CACHE_ERASED)
        ? 'it is empty'
        : state.handset.mode === 'recovery'
          ? [{ do: 'wipe', kind: 'cache' }]
          : 'it is erased in the recovery',
    () => [CACHE_ERASED],
  ),
  'wipe-keep-storage': onHandset(
    { title: 'Erase everything but the storage', minutes: [1, 3], who: 'handset' },
    wiping('keep storage'),
  ),
  'factory-reset': onHandset(
    { title: 'Erase everything', minutes: [2, 5], risk: 1, who: 'handset' },
    wiping('factory'),
  ),
  'format-data': onHandset(
    { title: 'Format the data: encryption goes too', minutes: [2, 5], risk: 2, who: 'handset' },
    wiping('format'),
  ),
} as const;

/** Rounds that put root on; another one formats nothing to get a package in. */
const ROOTING: readonly GoalId[] = ['first root', 'root again', 'keep a recovery'];
const CACHE_ERASED = 'cache erased';
/** What a backup through a recovery makes. */
export const IMAGE_OF_DATA = 'image of the data';

/** Its own recovery runs, and what it would install from lies on data that it can't open. */
const shutOut = ({ profile }: PlanContext, { handset }: PlanState) =>
  handset.mode === 'recovery' &&
  Boolean(recoveryImage(profile, handset)?.recovery) &&
  opensData(profile, handset) !== null;

function wiping(kind: 'keep storage' | 'factory' | 'format') {
  return (context: PlanContext, state: PlanState) => {
    const { limits, goal, start } = context;
    const { handset } = state;
    if (!limits.wipeAllowed) return 'it erases, and nothing may be erased';
    if (kind === 'format' && ROOTING.includes(goal))
      return shutOut(context, state)
        ? (overAnUpdate(state) ?? [{ do: 'wipe' as const, kind }])
        : 'its recovery opens the data as it is';
    if (goal !== 'repair' && goal !== 'downgrade') return 'nothing has to be erased for it';
    if (handset.data.wipes > start.data.wipes || handset.data.committedBy === null)
      return 'it is empty already';
    // the smallest first
    if (goal === 'repair' && !hasMade(state, CACHE_ERASED)) return 'the cache is erased first';
    if (handset.mode !== 'recovery') return 'it is erased in the recovery';
    return overAnUpdate(state) ?? [{ do: 'wipe' as const, kind }];
  };
}
