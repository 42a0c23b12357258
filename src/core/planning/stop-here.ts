import { onSlot } from '../handset/builds';
import { start } from '../handset/start';
import type { HandsetState, Mode } from '../handset/state';
import type { EndsSays } from '../words/plan';
import type { PlanContext } from './context';
import type { LanePlan } from './plan-round';
import { planRound } from './plan-round';

/*
 * What the handset is if a plan ends at a step, as it stays and after its power was lost, and the cheapest way
 * back (docs/method.md, "Stop here").
 */

export interface WayBack {
  readonly lane: string;
  readonly steps: number;
  readonly minutes: number;
}

export interface StopHere {
  /** Whether it starts when somebody presses power, and from which slot. */
  readonly starts: boolean;
  readonly slot: string | null;
  /** Fingerprint of what runs then; null where nothing does. */
  readonly build: string | null;
  readonly mode: Mode;
  readonly runningRoot: boolean;
  readonly rootOnDisk: boolean;
  readonly wiped: boolean;
  readonly says: EndsSays;
  /** Cheapest way to a system that runs; null where none is needed or none was found. */
  readonly wayBack: WayBack | null;
}

export interface Ends {
  /** Nothing restarts it: a system that runs goes on running, anything else is started. */
  readonly asItStays: StopHere;
  /** Its power is lost, and it is started again. */
  readonly powerLost: StopHere;
}

/** For each step of a plan, in its order. */
export function stopHere(context: PlanContext, plan: LanePlan): Ends[] {
  return plan.steps.map((step) => endsAt(context, step.after, step.made));
}

/** What becomes of a handset that is left here; `made` is what lies on the computer. */
export function endsAt(context: PlanContext, handset: HandsetState, made: readonly string[]): Ends {
  const runs = handset.mode === 'system' && handset.running !== null;
  const powerLost = told(context, afterPowerLoss(context, handset), made);
  return { asItStays: runs ? told(context, handset, made) : powerLost, powerLost };
}

/** One start, with what only lived in memory gone. */
const afterPowerLoss = ({ profile }: PlanContext, handset: HandsetState): HandsetState =>
  start(profile, { ...handset, mode: 'starting', fromMemory: null, loops: 0 }).state;

function told(context: PlanContext, after: HandsetState, made: readonly string[]): StopHere {
  const { profile } = context;
  const starts = after.mode === 'system';
  const { running } = after;
  const rootOnDisk = (after.images[onSlot(profile.rootPartition, after.active)]?.patchedBy ?? null) !== null;
  const wiped = after.data.wipes > context.start.data.wipes;
  return {
    starts,
    slot: starts ? running!.slot : null,
    build: starts ? running!.build : null,
    mode: after.mode,
    runningRoot: starts && running!.rooted,
    rootOnDisk,
    wiped,
    says: endsAs(context, after, rootOnDisk, wiped),
    wayBack: starts ? null : cheapestRepair(context, after, made),
  };
}

function endsAs(
  { profile }: PlanContext,
  after: HandsetState,
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
    updateWaits: after.update !== null,
    wiped,
  };
}

function cheapestRepair(context: PlanContext, from: HandsetState, made: readonly string[]): WayBack | null {
  if (from.mode === 'dead') return null;
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
