import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import type { GoalId, Limits, PlanContext } from '@/core/planning/context';
import { goesToStock, isUpdate } from '@/core/planning/goals';
import type { LanePlan, RoundPlans } from '@/core/planning/plan-round';
import type { FreshPlan } from '@/core/rounds/command';
import { waiting } from '@/core/rounds/decision';
import { expandPlan } from '@/core/rounds/expand-plan';
import type { ComparedLane, KeptPlan } from '@/core/rounds/round';
import { insertRound, openRoundOf } from '../repositories/round-repository';
import { needHandset } from '../services/bench-reading';
import { settleRootPartition } from '../services/bench-service';
import { now } from '../services/clock';
import { lastGood, planFor } from '../services/plan-service';
import type { RoundContext } from './round-context';
import { carryOut } from './carry-out';
import { settleRound } from './settling';

/* A round is opened in a lane, and planned anew when what is known has changed. */

const TITLES: Readonly<Record<GoalId, string>> = {
  'first root': 'First root',
  'root again': 'Root again',
  'monthly update': 'Monthly update',
  'major upgrade': 'Major upgrade',
  downgrade: 'Downgrade',
  'keep a recovery': 'Recovery',
  'return to stock': 'Return to stock',
  'lock again': 'Stock and locked',
  'root without unlocking': 'Root without unlocking',
  repair: 'Repair',
  'prove root': 'Prove root',
  'install a package': 'Package',
};

/** What a person may do where nothing was said. */
export const PLAIN_LIMITS: Limits = { computer: true, wipeAllowed: false, keepFuse: false };

export interface RoundWish {
  readonly handsetId: string;
  readonly goal: GoalId;
  readonly target: string | null;
  /** Null takes the pick. */
  readonly lane: string | null;
  readonly limits: Limits;
}

function chosenPlan({ plans, pick, others }: RoundPlans, lane: string | null): LanePlan {
  const plan = plans.find((one) => one.lane.id === (lane ?? pick));
  if (plan) return plan;
  const out = others.find((one) => one.lane.id === lane) ?? others[0];
  throw new EternoError(
    'refused',
    out ? `${out.lane.title}: ${out.reason}` : 'It is there already: nothing has to be done.',
  );
}

/** @param before the plan that it takes the place of: what that one switched off still has to come back */
function keptPlan(
  { plans, why }: RoundPlans,
  plan: LanePlan,
  limits: Limits,
  context: PlanContext,
  before?: KeptPlan,
): KeptPlan {
  const modulesOff = context.modulesOff?.length
    ? context.modulesOff
    : (before?.modulesOff ?? context.modulesOff);
  const compared = plans.map(({ lane, figures }): ComparedLane => ({
    title: lane.title,
    minutes: figures.minutes,
    wipes: figures.wipes,
    restarts: figures.restarts,
    chosen: lane.id === plan.lane.id,
  }));
  return {
    version: 1,
    // the one that was looked at, though a newer one comes later
    limits: context.install ? { ...limits, install: context.install.sha256 } : limits,
    compared,
    why,
    ...(modulesOff ? { modulesOff } : {}),
    ...(context.unknown?.length ? { unknown: context.unknown } : {}),
  };
}

/** The build that runs when a plan is done: of two that would do, the one that it leads to. */
function endBuild({ target, orTarget }: PlanContext, { steps }: LanePlan): string {
  const last = steps.at(-1)?.after;
  const runs = last && (last.running?.build ?? last.builds[last.active]);
  return runs !== undefined && runs === orTarget ? orTarget : target;
}

/**
 * Opens a round in a lane, or gives the one that is open.
 * @throws {EternoError} `refused` where no way leads there, with the reason
 */
export async function startRound({ handsetId, goal, target, lane, limits }: RoundWish): Promise<string> {
  const handset = await needHandset(handsetId);
  const open = await openRoundOf(handsetId);
  if (open) return open.id;
  await settleRootPartition(handsetId);
  const planned = await planFor(handsetId, { goal, target, limits });
  if (typeof planned === 'string') throw new EternoError('refused', planned);
  const plan = chosenPlan(planned.plans, lane);
  const title = TITLES[goal];
  const round = await insertRound(
    {
      handsetId,
      kind: goal,
      lane: plan.lane.id,
      title,
      target: endBuild(planned.context, plan),
      plan: keptPlan(planned.plans, plan, limits, planned.context),
      basedOn: (await lastGood(handsetId, goal))?.id ?? null,
      state: 'open',
      version: 0,
      overrides: [],
      openedAt: now(),
      closedAt: null,
    },
    expandPlan(planned.context, plan).map(waiting),
    [{ kind: 'round-opened', data: { title, handset: handset.name, lane: plan.lane.id } }],
  ).catch((thrown: unknown) => {
    if (toEternoError(thrown).code === 'conflict') return null;
    throw thrown;
  });
  // another tab was faster: there is one open round a handset
  if (round === null) return (await openRoundOf(handsetId))!.id;
  await settleRound(round.id);
  return round.id;
}

/** A lane that is asked for by name, and the limits that open it. */
export interface WantedLane {
  readonly lane: string;
  readonly limits: Partial<Limits>;
}

function goalNow({ round, facts, subject }: RoundContext): GoalId {
  // stock makes it start as well
  if (subject.root === 'broken' && !goesToStock(round.kind)) return 'repair';
  const arrived = round.target !== null && facts.fingerprint === round.target;
  // the build runs already, without its root: what is left is root
  return isUpdate(round.kind) && arrived ? 'root again' : round.kind;
}

/**
 * The way on from what is known now.
 * @param goal what the way leads to, where it is another than the round's own
 * @throws {EternoError} `refused` where none leads there any more
 */
export async function freshPlan(
  context: RoundContext,
  goal = goalNow(context),
  wanted: WantedLane | null = null,
): Promise<FreshPlan> {
  const { round, facts, handset } = context;
  // what opens the way of a repair is no limit of what the round is for
  const own = round.plan.limits ?? PLAIN_LIMITS;
  const limits = { ...own, ...wanted?.limits };
  const moves = isUpdate(goal) || goal === 'downgrade';
  const planned = await planFor(handset.id, { goal, target: moves ? round.target : null, limits });
  if (typeof planned === 'string') throw new EternoError('refused', planned);
  // the lane was chosen for what the round is for; a repair on the way takes its own pick
  const isSame = goal === round.kind && planned.plans.plans.some((one) => one.lane.id === round.lane);
  const lane = wanted?.lane ?? (isSame ? round.lane : null);
  const plan = chosenPlan(planned.plans, lane);
  return {
    goal,
    lane: plan.lane.id,
    // a repair on the way changes nothing of what the round is for
    target: goal === round.kind ? endBuild(planned.context, plan) : (round.target ?? planned.context.target),
    findOut: handset.link === 'hand',
    plan: keptPlan(planned.plans, plan, own, planned.context, round.plan),
    steps: expandPlan(planned.context, plan),
    installed: facts.fingerprint,
  };
}

/**
 * The same where there may be none: the round stands where it stood then, and the next step's checks say why.
 */
export const freshPlanIfAny = (context: RoundContext): Promise<FreshPlan | null> =>
  freshPlan(context).catch((thrown: unknown) => {
    if (toEternoError(thrown).code !== 'refused') throw thrown;
    return null;
  });

/**
 * A new plan from what is known now; the steps that are done stay.
 * @throws {EternoError} `refused` where no way leads there any more
 */
export async function replan(roundId: string, version: number): Promise<void> {
  await carryOut(roundId, version, async (context) => ({ do: 'plan-anew', fresh: await freshPlan(context) }));
}

/**
 * Planned anew for exactly this repair.
 * @throws {EternoError} `refused` where it is no way as things are
 */
export async function planRepair(roundId: string, version: number, wanted: WantedLane): Promise<void> {
  await carryOut(roundId, version, async (context) => ({
    do: 'plan-anew',
    fresh: await freshPlan(context, 'repair', wanted),
  }));
}

/**
 * Planned anew to put the stock image back: by hand, where a step went wrong.
 * @throws {EternoError} `refused` where no way leads there
 */
export async function planStockBack(roundId: string, version: number): Promise<void> {
  await carryOut(roundId, version, async (context) => ({
    do: 'plan-anew',
    fresh: await freshPlan(context, 'return to stock'),
  }));
}
