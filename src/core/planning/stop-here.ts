import { onSlot } from '../handset/builds';
import { start } from '../handset/start';
import type { HandsetState } from '../handset/state';
import type { EndsSays } from '../words/plan';
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
  readonly says: EndsSays;
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
    says: endsAs(context, after, handset, rootOnDisk, wiped),
    wayBack: back,
  };
}

function endsAs(
  { profile }: PlanContext,
  after: HandsetState,
  before: HandsetState,
  rootOnDisk: boolean,
  wiped: boolean,
): EndsSays {
  const { running, mode } = after;
  const starts = mode === 'system';
  const rooted = starts && running!.rooted;
  return {
    is: mode === 'dead' ? 'dead' : starts ? 'starts' : 'loops',
    fault: starts ? null : after.lastStart,
    slot: starts && profile.slotCount === 2 ? running!.slot : null,
    root: rooted
      ? rootOnDisk
        ? 'on disk and running'
        : 'running only'
      : rootOnDisk
        ? 'on disk only'
        : 'none',
    updateWaits: before.update !== null,
    wiped,
  };
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
