import { onSlot } from '../handset/builds';
import { start } from '../handset/start';
import type { HandsetState } from '../handset/state';
import { IMAGE_OF_DATA } from './actions-recovery';
import type { GoalId, PlanContext, PlanState } from './context';
import { noRecoveryPlace } from './context';

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
};

/** Another build and root on it: a new release is taken the same ways as a new month. */
export const isUpdate = (goal: GoalId) => goal === 'monthly update' || goal === 'major upgrade';

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

function stockEverywhere(handset: HandsetState): boolean {
  const suffix = `_${handset.active}`;
  return Object.entries(handset.images).every(
    ([name, image]) =>
      !name.endsWith(suffix) || (image.broken === null && image.patchedBy === null && !image.recovery),
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

/** Whether a plan may end here. Updates have merged, and everything temporary is put back. */
export function reached(context: PlanContext, { handset, made }: PlanState): boolean {
  if (wantsImage(context) && !made.includes(IMAGE_OF_DATA)) return false;
  if (
    handset.mode !== 'system' ||
    handset.running === null ||
    handset.snapshot !== 'none' ||
    handset.update !== null
  )
    return false;
  const onTarget = handset.running.build === context.target;
  const settings =
    context.goal === 'downgrade' ||
    handset.data.wipes > context.start.data.wipes ||
    handset.settings.autoUpdate === context.start.settings.autoUpdate;
  if (!settings) return false;
  switch (context.goal) {
    case 'first root':
    case 'root again':
    case 'monthly update':
    case 'major upgrade':
      return onTarget && lastingRoot(context, handset) && kept(context, handset);
    case 'downgrade':
      // left on, the system takes the newer build again over the next Wi-Fi
      return onTarget && !handset.settings.autoUpdate;
    case 'keep a recovery': {
      const recovery = customRecovery(context, handset);
      const wasRooted =
        (context.start.images[onSlot(context.profile.rootPartition, context.start.active)]?.patchedBy ??
          null) !== null;
      return (
        recovery !== null &&
        survivesStart(context, handset) &&
        (!wasRooted || handset.running.rooted) &&
        (context.limits.wipeAllowed || handset.data.wipes === context.start.data.wipes)
      );
    }
    case 'return to stock':
      return stockEverywhere(handset) && !handset.running.rooted;
    case 'lock again':
      return handset.locked && stockEverywhere(handset) && !handset.running.rooted;
    case 'root without unlocking':
      return handset.locked && handset.running.rooted && handset.rootRequest === 'granted';
    case 'repair':
      return true;
  }
}

/** A recovery counts only if it is still there after one more start. */
function survivesStart(context: PlanContext, handset: HandsetState): boolean {
  const after = start(context.profile, { ...handset, mode: 'starting' });
  return after.outcome.result === 'started' && customRecovery(context, after.state) !== null;
}
