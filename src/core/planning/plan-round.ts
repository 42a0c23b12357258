import { onSlot } from '../handset/builds';
import { lowerFirst } from '../words/sentence';
import { search } from '../plan/search';
import type { Move } from '../plan/search';
import type { HandsetState } from '../handset/state';
import type { ActionId, PlanAction } from './actions';
import { ACTIONS, MODULES_OFF } from './actions';
import type { PlanContext, PlanState } from './context';
import { hasMade, withMade } from './context';
import { isUpdate, reached, wantsImage, wantsModulesOff } from './goals';
import type { Lane } from './lane';
import { needRootPlace } from './lane';
import { extraTrips, forbidden } from './limits';
import { LANES } from './lanes';
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
}

export interface RuledOutLane {
  readonly lane: Pick<Lane, 'id' | 'title'>;
  /** `impossible` only where everything reachable was looked at. */
  readonly verdict: 'impossible' | 'not found';
  readonly reason: string;
}

export interface RoundPlans {
  /** The best first. */
  readonly plans: readonly LanePlan[];
  readonly others: readonly RuledOutLane[];
  readonly pick: string | null;
  readonly why: string;
}

/** What a minute of work on the computer costs more while the handset waits for it. */
const WAITING = 0.3;

/** Set once a lane's own step was taken: a plan without it would be another lane's. */
const THIS_LANE = '#lane';

/** Set once the new build was seen to start, without root. */
const SEEN = '#seen';

/** States that one lane's search looks at before it gives up. */
const BUDGET = 6000;
/** What root that is off the disk while it still runs counts, of root that is gone. */
const OFF_DISK = 0.5;

/** Everything of a state that decides what can still be done: no clock, battery or words. */
function keyOf({ handset, made }: PlanState): string {
  const {
    images,
    version: _version,
    lastStart: _lastStart,
    batteryPercent: _battery,
    cable: _cable,
    loops: _loops,
    record: _record,
    ...rest
  } = handset;
  return JSON.stringify([rest, looksOf(images), made]);
}

const looksOf = (images: HandsetState['images']) =>
  Object.entries(images)
    .map(([name, image]) => `${name}:${image.broken ? 'broken' : image.sha256}`)
    .join(' ');

/** Nothing that lasts, and nothing that was asked, differs: a step that does not change anything decides nothing. */
const isSame = ({ handset: a }: PlanState, { handset: b }: PlanState): boolean =>
  a.images === b.images || looksOf(a.images) === looksOf(b.images)
    ? a.active === b.active &&
      a.locked === b.locked &&
      a.rootRequest === b.rootRequest &&
      a.running?.rooted === b.running?.rooted &&
      a.data.wipes === b.data.wipes &&
      a.data.encrypted === b.data.encrypted &&
      a.fromMemory === b.fromMemory &&
      JSON.stringify([a.builds, a.slots, a.update]) === JSON.stringify([b.builds, b.slots, b.update])
    : false;

/** A first start after a wipe takes longer. */
function minutesOf(
  { pace }: PlanContext,
  action: PlanAction,
  { handset }: PlanState,
): readonly [number, number] {
  const starting = action.id === 'start' || action.id === 'finish-start';
  const [expected, slow] = pace[action.id] ?? action.minutes;
  return starting && handset.data.committedBy === null ? [expected + 4, slow + 6] : [expected, slow];
}

const actionOf = (id: ActionId): PlanAction => ({ id, ...ACTIONS[id] });

function costOf(context: PlanContext, action: PlanAction, before: PlanState, after: PlanState): number {
  const { weights } = context;
  const wipes = after.handset.data.wipes - before.handset.data.wipes;
  const minutes = minutesOf(context, action, before)[0];
  const unrooted = minutes * weights.minuteWithoutRoot * rootGone(context, after);
  // what can be made beforehand is: a handset that waits in another mode drains, and times out
  const waiting =
    action.who === 'computer' && before.handset.mode !== 'system' && before.handset.mode !== 'off'
      ? minutes * WAITING
      : 0;
  const restart = action.id === 'start' || action.id === 'finish-start' ? weights.restart : 0;
  return (
    minutes +
    waiting +
    action.risk +
    wipes * weights.wipe +
    unrooted +
    restart +
    action.offers * weights.offer +
    (action.fileTrips + extraTrips(context, action.writes && action.who === 'link')) * weights.fileTrip +
    action.downloads * weights.download +
    (action.writes ? weights.write : 0)
  );
}

/** How much of root is gone: all of it, or what a restart would take. */
function rootGone({ profile }: PlanContext, { handset }: PlanState): number {
  if (!handset.running?.rooted) return 1;
  return handset.images[onSlot(profile.rootPartition, handset.active)]?.patchedBy ? 0 : OFF_DISK;
}

type Attempt =
  { readonly kind: 'plan'; readonly plan: LanePlan } | { readonly kind: 'out'; readonly out: RuledOutLane };

function planLane(context: PlanContext, lane: Lane, from: PlanState): Attempt {
  const out = (verdict: RuledOutLane['verdict'], reason: string): Attempt => ({
    kind: 'out',
    out: { lane: { id: lane.id, title: lane.title }, verdict, reason },
  });
  const ruledOut = needRootPlace(context) ?? lane.ruledOut(context);
  if (ruledOut !== null) return out('impossible', ruledOut);
  if (wantsImage(context) && !lane.actions.includes('back-up-image'))
    return out('impossible', 'It passes no recovery that could take an image of the data first.');
  const actions = [...new Set(lane.actions)].map(actionOf);
  const off = wantsModulesOff(context) && lane.actions.includes('modules-off');
  const refusals = new Map<ActionId, string>();
  let decided = false;
  const seenFirst = lane.seenFirst === true || (context.limits.seenFirst === true && isUpdate(context.goal));
  const result = search<PlanState, PlanAction>(
    {
      start: from,
      key: keyOf,
      isGoal: (state) =>
        hasMade(state, THIS_LANE) &&
        reached(context, state) &&
        (!off || hasMade(state, MODULES_OFF)) &&
        (!seenFirst || hasMade(state, SEEN)),
      *moves(state) {
        for (const action of actions) {
          const bar = forbidden(context, action.id);
          const tried = bar === null ? action.apply(context, state) : { ok: false as const, reason: bar };
          if (!tried.ok) {
            refusals.set(action.id, tried.reason);
            continue;
          }
          const decisive = lane.decisive.includes(action.id) && !isSame(state, tried.state);
          if (decisive) decided = true;
          const next = withMade(
            tried.state,
            ...(decisive ? [THIS_LANE] : []),
            ...(seenFirst && isSeen(context, tried.state) ? [SEEN] : []),
          );
          yield { action, state: next, cost: costOf(context, action, state, next) };
        }
      },
    },
    BUDGET,
  );
  if (result.kind === 'out of budget')
    return out('not found', `No way was found among the first ${BUDGET} states.`);
  if (result.kind === 'exhausted') {
    // a locked handset is shut out by its lock, whatever the lane's own step says
    const shut =
      context.start.locked && !decided && refusals.has('unlock') && lane.actions.includes('unlock');
    const decisive = shut ? 'unlock' : lane.decisive[0]!;
    const reason = decided ? undefined : refusals.get(decisive);
    const title = lowerFirst(ACTIONS[decisive].title);
    return out(
      'impossible',
      reason ? `It cannot ${title}: ${reason}.` : 'No order of its steps leads there.',
    );
  }
  return { kind: 'plan', plan: describe(context, lane, from, result.moves) };
}

/** The wanted build runs, and nothing of it is changed. */
const isSeen = ({ target, profile }: PlanContext, { handset: { running, images } }: PlanState): boolean =>
  running !== null &&
  running.build === target &&
  !running.rooted &&
  images[onSlot(profile.rootPartition, running.slot)]?.patchedBy === null;

function describe(
  context: PlanContext,
  lane: Lane,
  from: PlanState,
  moves: readonly Move<PlanState, PlanAction>[],
): LanePlan {
  let before = from;
  const steps: PlannedStep[] = [];
  let withoutRoot = 0;
  for (const { action, state } of moves) {
    const minutes = minutesOf(context, action, before);
    if (!state.handset.running?.rooted) withoutRoot += minutes[0];
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
      restarts: used.filter(({ id: action }) => action === 'start' || action === 'finish-start').length,
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
  };
}

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
  const from: PlanState = { handset: context.start, made: [...context.kept].sort() };
  if (reached(context, from))
    return { plans: [], others: [], pick: null, why: 'It is there already: nothing has to be done.' };
  const plans: LanePlan[] = [];
  const others: RuledOutLane[] = [];
  const wanted = isUpdate(context.goal) ? 'monthly update' : context.goal;
  for (const lane of LANES.filter((one) => one.goals.includes(wanted))) {
    const attempt = planLane(context, lane, from);
    if (attempt.kind === 'plan') plans.push(attempt.plan);
    else others.push(attempt.out);
  }
  plans.sort((a, b) => a.score - b.score);
  const [best, second] = plans;
  return {
    plans,
    others: plans.length > 0 ? others : others.map((out) => nearest(context, from, out)),
    pick: best?.lane.id ?? null,
    why: whyOf(best, second),
  };
}

/**
 * Where no lane leads there, each that was searched in vain says what would open it; what rules one out from
 * the beginning stays as it is said.
 */
function nearest(context: PlanContext, from: PlanState, out: RuledOutLane): RuledOutLane {
  const lane = LANES.find(({ id }) => id === out.lane.id)!;
  if (needRootPlace(context) !== null || lane.ruledOut(context) !== null) return out;
  const opens = relaxed(context).find(
    (one) => planLane(one.context, lane, { ...from, handset: one.context.start }).kind === 'plan',
  );
  return opens ? { ...out, reason: opens.reason } : out;
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
