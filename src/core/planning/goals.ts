import { onSlot } from '../handset/builds';
import { start } from '../handset/start';
import type { HandsetState, ImageFacts } from '../handset/state';
import { otherSlot } from '../handset/state';
import { PACKAGE_SEEN } from './actions-package';
import { IMAGE_OF_DATA } from './actions-recovery';
import type { GoalId, PlanContext, PlanState } from './context';
import { BOOTLOADER_BACK, BOOTLOADER_DOWN, noRecoveryPlace, RECOVERY_OPENED } from './context';

export const GOAL_WORDS: Readonly<Record<GoalId, string>> = {
  'first root': 'root it for the first time',
  'root again': 'root it again',
  'monthly update': 'take the update and keep root',
  'major upgrade': 'move to a new release and keep root',
  downgrade: 'go back to an older build',
  'keep a recovery': 'have a custom recovery',
  'return to stock': 'go back to stock',
  'lock again': 'go back to stock and lock it',
  'root without unlocking': 'have root without unlocking',
  repair: 'make it start again',
  'prove root': 'prove the root that is there',
  'install a package': 'install a package from the running system',
};

/** Another build and root on it: a new release is taken the same ways as a new month. */
export const isUpdate = (goal: GoalId) => goal === 'monthly update' || goal === 'major upgrade';

/** Root on the build that the round is for is what it is about. */
export const wantsRoot = (goal: GoalId) => goal === 'first root' || goal === 'root again' || isUpdate(goal);

/** At its end nothing of the handset is changed any more. */
export const goesToStock = (goal: GoalId) => goal === 'return to stock' || goal === 'lock again';

/** Root proved on what runs, and lasting: the image on disk carries it. */
export function lastingRoot({ profile }: PlanContext, handset: HandsetState): boolean {
  const { running } = handset;
  return (
    running !== null &&
    running.rooted &&
    handset.rootRequest === 'granted' &&
    handset.rootApp === 'ready' &&
    (handset.images[onSlot(profile.rootPartition, running.slot)]?.patchedBy ?? null) !== null
  );
}

const customRecovery = ({ profile }: PlanContext, handset: HandsetState) =>
  handset.images[onSlot(profile.recoveryHome, handset.active)]?.recovery ?? null;

/** Everything that was there at the beginning and has to be there at the end. */
function kept(context: PlanContext, handset: HandsetState): boolean {
  const { start: first, limits } = context;
  const modules =
    first.modules.ids.every((id) => handset.modules.ids.includes(id)) &&
    (handset.modules.ids.length === 0 || handset.modules.on);
  // where no recovery can be put back, the plan says that it is lost
  const recovery =
    customRecovery(context, first) === null ||
    customRecovery(context, handset) !== null ||
    noRecoveryPlace(context) !== null;
  const wipes = limits.wipeAllowed || handset.data.wipes === first.data.wipes;
  return wipes && (handset.data.wipes > first.data.wipes || modules) && recovery;
}

const isStock = (image: ImageFacts | undefined): boolean =>
  image === undefined ||
  (image.broken === null && image.patchedBy === null && !image.recovery && image.digestValid !== false);

/** Everything on the active slot is the maker's, and on the other one what carries root. */
function stockEverywhere({ profile, unknown = [] }: PlanContext, { images, active }: HandsetState): boolean {
  const suffix = `_${active}`;
  const other = unknown.includes('other-slot')
    ? undefined
    : images[onSlot(profile.rootPartition, otherSlot(active))];
  return (
    Object.entries(images).every(([name, image]) => !name.endsWith(suffix) || isStock(image)) &&
    // what was cut short there, or never read, is no root
    (profile.slotCount === 1 || (other !== undefined && other.broken !== null) || isStock(other))
  );
}

/** What was judged too risky to stay on has to be off before the update, where root can do that. */
export const wantsModulesOff = ({ goal, modulesOff, start }: PlanContext) =>
  isUpdate(goal) &&
  (modulesOff?.length ?? 0) > 0 &&
  start.running?.rooted === true &&
  start.modules.on &&
  start.modules.ids.length > 0;

/** A handset that does not start is made to start first. */
export const wantsImage = ({ limits, goal }: PlanContext) => limits.imageBackup === true && goal !== 'repair';

/** A handset whose system runs, with nothing of an update under way. */
type Settled = HandsetState & { readonly running: NonNullable<HandsetState['running']> };

const runs = (handset: HandsetState): handset is Settled =>
  handset.mode === 'system' && handset.running !== null;

const isSettled = (handset: HandsetState): handset is Settled =>
  runs(handset) && handset.snapshot === 'none' && handset.update === null;

const autoUpdateAsBefore = ({ goal, start: first }: PlanContext, { data, settings }: HandsetState) =>
  goal === 'downgrade' || data.wipes > first.data.wipes || settings.autoUpdate === first.settings.autoUpdate;

const onTarget = ({ target, orTarget }: PlanContext, { running }: Settled) =>
  running.build === target || running.build === orTarget;
const rootedOnTarget = (context: PlanContext, handset: Settled) =>
  onTarget(context, handset) && lastingRoot(context, handset) && kept(context, handset);
const unrootedStock = (context: PlanContext, handset: Settled) =>
  stockEverywhere(context, handset) && !handset.running.rooted && handset.insideRoot === undefined;

function recoveryKept(context: PlanContext, handset: Settled): boolean {
  const { start: first, profile, limits } = context;
  const wasRooted = (first.images[onSlot(profile.rootPartition, first.active)]?.patchedBy ?? null) !== null;
  return (
    customRecovery(context, handset) !== null &&
    survivesStart(context, handset) &&
    (!wasRooted || handset.running.rooted) &&
    (limits.wipeAllowed || handset.data.wipes === first.data.wipes)
  );
}

const REACHED: Readonly<Record<GoalId, (context: PlanContext, handset: Settled) => boolean>> = {
  'first root': rootedOnTarget,
  'root again': rootedOnTarget,
  'monthly update': rootedOnTarget,
  'major upgrade': rootedOnTarget,
  // left on, the system takes the newer build again over the next Wi-Fi
  downgrade: (context, handset) => onTarget(context, handset) && !handset.settings.autoUpdate,
  'keep a recovery': recoveryKept,
  'return to stock': unrootedStock,
  'lock again': (context, handset) => handset.locked && unrootedStock(context, handset),
  'root without unlocking': (_context, handset) =>
    handset.locked && handset.running.rooted && handset.rootRequest === 'granted',
  repair: () => true,
  'prove root': (_context, handset) => handset.running.rooted && handset.rootRequest === 'granted',
  'install a package': (context, handset) => handset.running.rooted && kept(context, handset),
};

/** Whether a plan may end here. Updates have merged, and everything temporary is put back. */
export function reached(context: PlanContext, { handset, made }: PlanState): boolean {
  if (wantsImage(context) && !made.includes(IMAGE_OF_DATA)) return false;
  // what was put in for a while goes out again
  if (made.includes(BOOTLOADER_DOWN) && !made.includes(BOOTLOADER_BACK)) return false;
  if (context.goal === 'install a package' && !made.includes(PACKAGE_SEEN)) return false;
  // one that was not there before counts once it was seen to open
  if (
    context.goal === 'keep a recovery' &&
    customRecovery(context, context.start) === null &&
    !made.includes(RECOVERY_OPENED)
  )
    return false;
  // what runs is repaired, and root is proved, whether or not an update merges behind it
  if (context.goal === 'repair' || context.goal === 'prove root')
    return runs(handset) && REACHED[context.goal](context, handset);
  return (
    isSettled(handset) && autoUpdateAsBefore(context, handset) && REACHED[context.goal](context, handset)
  );
}

/** A recovery counts only if it is still there after one more start. */
function survivesStart(context: PlanContext, handset: HandsetState): boolean {
  const after = start(context.profile, { ...handset, mode: 'starting' });
  return after.outcome.result === 'started' && customRecovery(context, after.state) !== null;
}
