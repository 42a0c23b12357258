import { onSlot } from '../handset/builds';
import type { PlanAction } from './actions';
import type { PlanContext, PlanState } from './context';
import { extraTrips } from './limits';

/* What a step of a plan costs, in minutes by the owner's weights. */

/** What a minute of work on the computer costs more while the handset waits for it. */
const WAITING = 0.3;
/** What root that is off the disk while it still runs counts, of root that is gone. */
const OFF_DISK = 0.5;

const STARTS: readonly PlanAction['id'][] = [
  'start',
  'finish-start',
  'start-with-recovery-keys',
  'modules-seen-off',
];
export const isStart = ({ id }: Pick<PlanAction, 'id'>) => STARTS.includes(id);

/** Expected and slow; a first start after a wipe takes longer. */
export function minutesOf(
  { pace }: PlanContext,
  action: PlanAction,
  { handset }: PlanState,
): readonly [number, number] {
  const [expected, slow] = pace[action.id] ?? action.minutes;
  return isStart(action) && handset.data.committedBy === null ? [expected + 4, slow + 6] : [expected, slow];
}

/** How much of root is gone: all of it, or what a restart would take. */
export function rootGone({ profile }: PlanContext, { handset }: PlanState): number {
  if (!handset.running?.rooted) return 1;
  return handset.images[onSlot(profile.rootPartition, handset.active)]?.patchedBy ? 0 : OFF_DISK;
}

export function costOf(
  context: PlanContext,
  action: PlanAction,
  before: PlanState,
  after: PlanState,
): number {
  const { weights } = context;
  // data that no system has opened since it was erased is empty: nothing is lost with it
  const empty = before.handset.data.committedBy === null;
  const wipes = empty ? 0 : after.handset.data.wipes - before.handset.data.wipes;
  const minutes = minutesOf(context, action, before)[0];
  const unrooted = minutes * weights.minuteWithoutRoot * rootGone(context, after);
  // what can be made beforehand is: a handset that waits in another mode drains, and times out
  const waiting =
    action.who === 'computer' && before.handset.mode !== 'system' && before.handset.mode !== 'off'
      ? minutes * WAITING
      : 0;
  return (
    minutes +
    waiting +
    action.risk +
    wipes * weights.wipe +
    unrooted +
    (isStart(action) ? weights.restart : 0) +
    action.offers * weights.offer +
    (action.fileTrips + extraTrips(context, action.writes && action.who === 'link')) * weights.fileTrip +
    action.downloads * weights.download +
    (action.writes ? weights.write : 0)
  );
}
