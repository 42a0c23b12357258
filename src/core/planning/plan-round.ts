import type { HandsetState } from '../handset/state';
import type { ActionId, PlanAction } from './actions';
import type { PlanContext, PlanState } from './context';
import { isStart, minutesOf, rootGone } from './cost';
import { isUpdate, reached } from './goals';
import type { Lane } from './lane';
import { needRootPlace } from './lane';
import type { LaneMove, Refused } from './lane-search';
import { anyWay, changesARefusal, leadsThere, searchLane, startOf } from './lane-search';
import { LANES } from './lanes';
import { extraTrips } from './limits';
import type { Opens, Relaxed } from './nearest';
import { relaxed } from './nearest';

/*
 * For each lane its best plan, each played on the machine; why the others are impossible; which one and why
 * (docs/method.md, "The planner").
 */

export interface PlannedStep {
  readonly action: ActionId;
  readonly title: string;
  readonly who: PlanAction['who'];
  readonly minutes: readonly [number, number];
  readonly writes: boolean;
  /** Restart offers to refuse at it. */
  readonly offers: number;
  /** The handset after it. */
  readonly after: HandsetState;
  readonly made: readonly string[];
}

export interface PlanFigures {
  readonly wipes: number;
  readonly minutes: readonly [number, number];
  readonly minutesWithoutRoot: number;
  /** Root runs, and the disk does not hold it: a restart would take it. */
  readonly minutesOffDisk: number;
  readonly restarts: number;
  /** Restart offers that have to be refused. */
  readonly offers: number;
  readonly fileTrips: number;
  readonly downloads: number;
  readonly writes: number;
  readonly trialStart: boolean;
}

export interface LanePlan {
  readonly lane: Pick<Lane, 'id' | 'title' | 'forIt' | 'againstIt'>;
  readonly steps: readonly PlannedStep[];
  readonly figures: PlanFigures;
  /** In minutes, by the owner's weights; the least is the pick. */
  readonly score: number;
  readonly survives: readonly string[];
  readonly lost: readonly string[];
  readonly tamper: TamperForecast;
}

/** What the tamper record will say afterwards. */
export interface TamperForecast {
  /** Title of the step that blows the fuse; null where none does, or it is blown already. */
  readonly blowsAt: string | null;
  /** By so much the counter of writes goes up. */
  readonly writes: number;
}

export interface RuledOutLane {
  readonly lane: Pick<Lane, 'id' | 'title'>;
  /** `impossible` only where everything reachable was looked at. */
  readonly verdict: 'impossible' | 'not found';
  readonly reason: string;
  /** What on the page would open it; null where nothing does, or that is not known. */
  readonly opens: Opens | null;
}

export interface RoundPlans {
  /** The best first. */
  readonly plans: readonly LanePlan[];
  readonly others: readonly RuledOutLane[];
  readonly pick: string | null;
  readonly why: string;
}

interface Out {
  readonly lane: Lane;
  readonly out: RuledOutLane;
  readonly refused: readonly Refused[];
}
type Attempt = { readonly kind: 'plan'; readonly plan: LanePlan } | ({ readonly kind: 'out' } & Out);

function planLane(context: PlanContext, lane: Lane, from: PlanState): Attempt {
  const found = searchLane(context, lane, from);
  if (found.kind === 'found') return { kind: 'plan', plan: describe(context, lane, from, found.moves) };
  const { verdict, reason, refused } = found;
  const out = { lane: { id: lane.id, title: lane.title }, verdict, reason, opens: null };
  return { kind: 'out', lane, out, refused };
}

function describe(context: PlanContext, lane: Lane, from: PlanState, moves: readonly LaneMove[]): LanePlan {
  let before = from;
  const steps: PlannedStep[] = [];
  let [withoutRoot, offDisk] = [0, 0];
  for (const { action, state } of moves) {
    const minutes = minutesOf(context, action, before);
    const gone = rootGone(context, state);
    if (gone === 1) withoutRoot += minutes[0];
    else if (gone > 0) offDisk += minutes[0];
    const { id: actionId, title: actionTitle, who, writes, offers } = action;
    steps.push({
      action: actionId,
      title: actionTitle,
      who,
      minutes,
      writes,
      offers,
      after: state.handset,
      made: state.made,
    });
    before = state;
  }
  const used = moves.map(({ action }) => action);
  const sum = (of: (action: PlanAction) => number) => used.reduce((total, action) => total + of(action), 0);
  const { id, title, forIt, againstIt } = lane;
  return {
    lane: { id, title, forIt, againstIt },
    steps,
    figures: {
      wipes: before.handset.data.wipes - context.start.data.wipes,
      minutes: [
        steps.reduce((total, step) => total + step.minutes[0], 0),
        steps.reduce((total, step) => total + step.minutes[1], 0),
      ],
      minutesWithoutRoot: withoutRoot,
      minutesOffDisk: offDisk,
      restarts: used.filter(isStart).length,
      offers: sum(({ offers }) => offers),
      fileTrips: sum(
        (action) => action.fileTrips + extraTrips(context, action.writes && action.who === 'link'),
      ),
      downloads: sum(({ downloads }) => downloads),
      writes: used.filter(({ writes }) => writes).length,
      trialStart: lane.trialStart,
    },
    score: moves.reduce((total, move) => total + move.cost, 0),
    ...survival(context, before.handset),
    tamper: forecast(context, steps),
  };
}

const forecast = ({ start }: PlanContext, steps: readonly PlannedStep[]): TamperForecast => ({
  blowsAt: start.record.fuseBlown ? null : (steps.find(({ after }) => after.record.fuseBlown)?.title ?? null),
  writes: (steps.at(-1)?.after ?? start).record.writes - start.record.writes,
});

/** What of the beginning is still there at the end, and what is not. */
function survival({ start, profile }: PlanContext, end: HandsetState): Pick<LanePlan, 'survives' | 'lost'> {
  const recovery = (state: HandsetState) =>
    state.images[`${profile.recoveryHome}_${state.active}`]?.recovery?.name ?? null;
  const things: readonly (readonly [string, boolean, boolean])[] = [
    ['data', true, end.data.wipes === start.data.wipes],
    [
      'root',
      start.running?.rooted === true || Object.values(start.images).some((image) => image.patchedBy !== null),
      end.running?.rooted === true,
    ],
    ['modules', start.modules.ids.length > 0, end.modules.ids.length >= start.modules.ids.length],
    [`recovery ${recovery(start) ?? ''}`.trim(), recovery(start) !== null, recovery(end) !== null],
    ['warranty fuse', !start.record.fuseBlown, !end.record.fuseBlown],
  ];
  const there = things.filter(([, before]) => before);
  return {
    survives: there.filter(([, , after]) => after).map(([name]) => name),
    lost: there.filter(([, , after]) => !after).map(([name]) => name),
  };
}

/** Plans for a goal, ranked by the owner's weights. Pure, and the same every time. */
export function planRound(context: PlanContext): RoundPlans {
  const from = startOf(context);
  if (reached(context, from))
    return { plans: [], others: [], pick: null, why: 'It is there already: nothing has to be done.' };
  const plans: LanePlan[] = [];
  const others: Out[] = [];
  const wanted = isUpdate(context.goal) ? 'monthly update' : context.goal;
  for (const lane of LANES.filter((one) => one.goals.includes(wanted))) {
    const attempt = planLane(context, lane, from);
    if (attempt.kind === 'plan') plans.push(attempt.plan);
    else others.push(attempt);
  }
  plans.sort((a, b) => a.score - b.score);
  const [best, second] = plans;
  return {
    plans,
    others: others.map((out) => nearest(context, out, plans.length === 0)),
    pick: best?.lane.id ?? null,
    why: whyOf(best, second),
  };
}

/** What rules a lane out from the beginning may be a limit: then changing it opens the lane. */
const barredBy = (context: PlanContext, lane: Lane): Opens | null =>
  relaxed(context).find(({ relax }) => lane.ruledOut(relax(context)) === null)?.opens ?? null;

/**
 * Where no lane leads there, each that was searched in vain says what would open it; what rules one out from
 * the beginning stays as it is said.
 */
function nearest(context: PlanContext, { lane, out, refused }: Out, none: boolean): RuledOutLane {
  if (needRootPlace(context) !== null) return out;
  if (lane.ruledOut(context) !== null) return { ...out, opens: barredBy(context, lane) };
  if (!none) return out;
  // what would be refused all the same opens nothing
  const could = relaxed(context).filter(
    ({ relax, ofTheGoal }) =>
      ofTheGoal || changesARefusal(refused, lane, ({ handset }) => relax({ ...context, start: handset })),
  );
  const opens = opener(context, lane, could);
  return opens ? { ...out, reason: opens.reason, opens: opens.opens } : out;
}

const otherwise = (context: PlanContext, relaxes: readonly Relaxed[]) =>
  relaxes.reduce((now, { relax }) => relax(now), context);

/** The first of these that opens the lane by itself. */
function opener(context: PlanContext, lane: Lane, could: readonly Relaxed[]): Relaxed | undefined {
  if (could.length === 0) return undefined;
  const steps = anyWay(otherwise(context, could), lane);
  // what not even all of them together open is tried no further
  if (steps === null || could.length < 2) return steps === null ? undefined : could[0];
  return could.find((one) => {
    const alone = otherwise(context, [one]);
    return leadsThere(alone, lane, steps) || anyWay(alone, lane) !== null;
  });
}

function whyOf(best: LanePlan | undefined, second: LanePlan | undefined): string {
  if (!best) return 'No lane leads there from here; each says why.';
  if (!second) return `It is the only way there: ${best.lane.forIt}.`;
  const [a, b] = [best.figures, second.figures];
  const better = [
    a.wipes < b.wipes ? 'it wipes less' : '',
    a.minutesWithoutRoot < b.minutesWithoutRoot
      ? `${Math.round(b.minutesWithoutRoot - a.minutesWithoutRoot)} min less without root`
      : '',
    a.minutes[0] < b.minutes[0] ? `${Math.round(b.minutes[0] - a.minutes[0])} min shorter` : '',
    a.writes < b.writes ? 'fewer writes' : '',
    a.downloads < b.downloads ? 'fewer downloads' : '',
    a.restarts < b.restarts ? 'fewer restarts' : '',
    a.offers < b.offers ? `${b.offers - a.offers} fewer restart offers to refuse` : '',
    a.trialStart && !b.trialStart ? 'it has a net' : '',
  ].filter((part) => part !== '');
  return `Compared with “${second.lane.title}”: ${better.slice(0, 3).join(', ') || 'less by your weights'}.`;
}
