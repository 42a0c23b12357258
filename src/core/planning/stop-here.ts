import { onSlot } from '../handset/builds';
import { start } from '../handset/start';
import type { HandsetState } from '../handset/state';
import type { PlanContext } from './context';
import type { LanePlan } from './plan-round';
import { planRound } from './plan-round';

/* What the handset is if a plan ends at a step, and the cheapest way back (docs/method.md, "Stop here"). */

export interface StopHere {
  /** Whether it starts when somebody presses power, and from which slot. */
  readonly starts: boolean;
  readonly slot: string | null;
  readonly runningRoot: boolean;
  readonly rootOnDisk: boolean;
  readonly wiped: boolean;
  readonly sentence: string;
  /** Cheapest way to a system that runs; null where none is needed or none was found. */
  readonly wayBack: { readonly lane: string; readonly steps: number; readonly minutes: number } | null;
}

/** For each step of a plan, in its order. */
export function stopHere(context: PlanContext, plan: LanePlan): StopHere[] {
  return plan.steps.map((step) => ifItEnds(context, step.after, step.made));
}

function ifItEnds(context: PlanContext, handset: HandsetState, made: readonly string[]): StopHere {
  const { profile } = context;
  const running = handset.mode === 'system' ? handset.running : null;
  const outcome = running ? null : start(profile, { ...handset, mode: 'starting' });
  const after = running ? handset : outcome!.state;
  const starts = after.mode === 'system';
  const slot = starts ? after.running!.slot : null;
  const rootOnDisk = (after.images[onSlot(profile.rootPartition, after.active)]?.patchedBy ?? null) !== null;
  const wiped = handset.data.wipes > context.start.data.wipes;
  const back = starts ? null : cheapestRepair(context, after, made);
  return {
    starts,
    slot,
    runningRoot: starts && after.running!.rooted,
    rootOnDisk,
    wiped,
    sentence: sentenceOf(context, after, handset, rootOnDisk, wiped),
    wayBack: back,
  };
}

function sentenceOf(
  { profile }: PlanContext,
  after: HandsetState,
  before: HandsetState,
  rootOnDisk: boolean,
  wiped: boolean,
): string {
  const gone = wiped ? ' Its data is gone.' : '';
  if (after.mode === 'dead') return 'It does not start any more, by no means.';
  if (after.mode !== 'system') return `It loops: ${after.lastStart}.${gone}`;
  const where = profile.slotCount === 2 ? ` from slot ${after.running!.slot}` : '';
  const root = after.running!.rooted
    ? rootOnDisk
      ? 'with root'
      : 'with root until its next restart'
    : rootOnDisk
      ? 'with root on disk, not running yet'
      : 'without root';
  const waits = before.update ? ' The update that waits starts with any restart.' : '';
  return `It starts${where}, ${root}.${waits}${gone}`;
}

function cheapestRepair(
  context: PlanContext,
  from: HandsetState,
  made: readonly string[],
): StopHere['wayBack'] {
  const { plans } = planRound({
    ...context,
    goal: 'repair',
    start: from,
    kept: made,
    target: from.builds[from.active],
  });
  const [best] = plans;
  return best
    ? { lane: best.lane.title, steps: best.steps.length, minutes: Math.ceil(best.figures.minutes[0]) }
    : null;
}
