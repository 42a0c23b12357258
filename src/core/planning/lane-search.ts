import { EternoError } from '../errors';
import { onSlot } from '../handset/builds';
import type { Move } from '../plan/search';
import { search } from '../plan/search';
import { lowerFirst } from '../words/sentence';
import type { ActionId, PlanAction } from './actions';
import { ACTIONS } from './actions';
import { keepsRootOverRestart, MODULES_OFF, MODULES_SEEN_OFF } from './actions-modules';
import type { GoalId, PlanContext, PlanState } from './context';
import { hasMade, withMade } from './context';
import { costOf } from './cost';
import { isUpdate, reached, wantsImage, wantsModulesOff } from './goals';
import type { Lane } from './lane';
import { needRootPlace } from './lane';
import { forbidden } from './limits';
import type { Applying, Made } from './make-first';
import { MADE_HERE, makeFirst, makeEarly } from './make-first';
import { leavesAsItWas, stateKeys } from './state-key';

/*
 * The cheapest plan of one lane. What is made on the computer is not a move of its own: each step of the handset
 * brings along what it needs, and the whole plan has it done as early as it can be.
 */

export type LaneMove = Move<PlanState, PlanAction>;
export type SearchedLane =
  | { readonly kind: 'found'; readonly moves: readonly LaneMove[] }
  | {
      readonly kind: 'out';
      readonly verdict: 'impossible' | 'not found';
      readonly reason: string;
      /** Every step that was refused and why, at the first state where it was; none where nothing was searched. */
      readonly refused: readonly Refused[];
    };
export interface Refused {
  readonly action: PlanAction;
  readonly at: PlanState;
  readonly reason: string;
}

/** Set once a lane's own step was taken: a plan without it would be another lane's. */
const THIS_LANE = '#lane';
/** Set once the new build was seen to start, without root. */
const SEEN = '#seen';
/** States that one lane's search looks at before it gives up. */
const BUDGET = 6000;

/** What is believed to lie there was not enough: it is written once more. */
const WRITTEN_AGAIN: readonly GoalId[] = ['first root', 'root again'];

const actionOf = (id: ActionId): PlanAction => ({ id, ...ACTIONS[id] });

/** The wanted build runs, and nothing of it is changed. */
const isSeen = ({ target, profile }: PlanContext, { handset: { running, images } }: PlanState): boolean =>
  running !== null &&
  running.build === target &&
  !running.rooted &&
  images[onSlot(profile.rootPartition, running.slot)]?.patchedBy === null;

const seesFirst = ({ limits, goal }: PlanContext, lane: Lane) =>
  lane.seenFirst === true || (limits.seenFirst === true && isUpdate(goal));

/** An action within the person's limits and this lane's marks. */
const applyIn =
  (context: PlanContext, lane: Lane): Applying =>
  (action, state) => {
    const bar = forbidden(context, action.id);
    if (bar !== null) return { ok: false, reason: bar };
    const tried = action.apply(context, state);
    if (!tried.ok) return tried;
    const decisive =
      lane.decisive.includes(action.id) &&
      (lane.decidesAt?.(context, state) ?? true) &&
      (WRITTEN_AGAIN.includes(context.goal) || !leavesAsItWas(state, tried.state));
    return {
      ok: true,
      state: withMade(
        tried.state,
        ...(decisive ? [THIS_LANE] : []),
        ...(seesFirst(context, lane) && isSeen(context, tried.state) ? [SEEN] : []),
      ),
    };
  };

/** What a lane has to pass by its end. */
function marksOf(context: PlanContext, lane: Lane): readonly string[] {
  const off = wantsModulesOff(context) && lane.actions.includes('modules-off');
  // a switch that a module ignores shows at a restart only
  const seen = off && keepsRootOverRestart(context, startOf(context));
  return [
    THIS_LANE,
    ...(off ? [MODULES_OFF] : []),
    ...(seen ? [MODULES_SEEN_OFF] : []),
    ...(seesFirst(context, lane) ? [SEEN] : []),
  ];
}

/** Why nothing leads there: the last refusal of the lane's own step, or that there is no order. */
function whyNot(context: PlanContext, lane: Lane, { refusals, decided }: Seen): string {
  // a locked handset is shut out by its lock, whatever the lane's own step says
  const shut = context.start.locked && !decided && refusals.has('unlock') && lane.actions.includes('unlock');
  const decisive = shut ? 'unlock' : lane.decisive[0]!;
  const reason = decided ? undefined : refusals.get(decisive);
  return reason
    ? `It cannot ${lowerFirst(ACTIONS[decisive].title)}: ${reason}.`
    : 'No order of its steps leads there.';
}

/** The lane's steps as they go in a context, and each with what is made on the computer before it. */
function stepsIn(context: PlanContext, lane: Lane) {
  const apply = applyIn(context, lane);
  const here = [...new Set(lane.actions)].filter((id) => MADE_HERE.includes(id)).map(actionOf);
  return { apply, first: makeFirst(here, apply) };
}

/** Whether anything that was refused would be taken, or refused for another reason, if it were otherwise. */
export function changesARefusal(
  refused: readonly Refused[],
  lane: Lane,
  contextAt: (at: PlanState) => PlanContext,
): boolean {
  return refused.some(({ action, at, reason }) => {
    const context = contextAt(at);
    const tried = stepsIn(context, lane).first(action, { handset: context.start, made: at.made });
    return tried.ok || tried.reason !== reason;
  });
}

/** What lies there already is written once more, and that is not what the lane is about. */
const writesNothingNew = (key: (state: PlanState) => string, from: PlanState, { before, state }: Made) =>
  state.made === before.made && key({ handset: state.handset, made: from.made }) === key(from);

/** A move with what has to be made before it. */
type Composite = { readonly made: readonly PlanAction[]; readonly action: PlanAction };

/** What rules a lane out before any step is looked at. */
function ruledOutAtOnce(context: PlanContext, lane: Lane): string | null {
  const ruledOut = needRootPlace(context) ?? lane.ruledOut(context);
  if (ruledOut !== null) return ruledOut;
  return wantsImage(context) && !lane.actions.includes('back-up-image')
    ? 'It passes no recovery that could take an image of the data first.'
    : null;
}

/** What a search of a lane comes upon. */
interface Seen {
  /** Whether the lane's own step was ever taken. */
  decided: boolean;
  /** Every reason of each step, at the first state where it was refused for that. */
  readonly refused: Map<ActionId, Map<string, Refused>>;
  /** The last reason of each. */
  readonly refusals: Map<ActionId, string>;
}

function noteRefusal({ refused, refusals }: Seen, one: Refused): void {
  const { id } = one.action;
  refusals.set(id, one.reason);
  const ofAction = refused.get(id);
  if (ofAction === undefined) refused.set(id, new Map([[one.reason, one]]));
  else if (!ofAction.has(one.reason)) ofAction.set(one.reason, one);
}

/** @param any whether any way there will do, which is found sooner than the cheapest */
function explore(context: PlanContext, lane: Lane, from: PlanState, any: boolean) {
  const moves = [...new Set(lane.actions)].filter((id) => !MADE_HERE.includes(id)).map(actionOf);
  const { first } = stepsIn(context, lane);
  const key = stateKeys(lane.actions.some((id) => id === 'lock' || id === 'see-again'));
  const marks = marksOf(context, lane);
  const lacks = (state: PlanState) => marks.reduce((sum, mark) => sum + (hasMade(state, mark) ? 0 : 1), 0);
  const seen: Seen = { decided: false, refused: new Map(), refusals: new Map() };
  const result = search<PlanState, Composite>(
    {
      start: from,
      key,
      isGoal: (state) => lacks(state) === 0 && reached(context, state),
      ...(any ? { lacks } : {}),
      *moves(state) {
        for (const action of moves) {
          const tried = first(action, state);
          if (!tried.ok) {
            noteRefusal(seen, { action, at: state, reason: tried.reason });
            continue;
          }
          if (lane.decisive.includes(action.id) && hasMade(tried.state, THIS_LANE)) seen.decided = true;
          if (action.writes && writesNothingNew(key, state, tried)) continue;
          // what is made before is made at the beginning, where it can be
          const made = tried.made.reduce((sum, one) => sum + costOf(context, one, from, from), 0);
          const cost = made + costOf(context, action, tried.before, tried.state);
          yield { action: { made: tried.made, action }, state: tried.state, cost };
        }
      },
    },
    BUDGET,
  );
  return { result, seen };
}

const stepsOf = (moves: readonly Move<PlanState, Composite>[]): readonly PlanAction[] =>
  moves.flatMap(({ action: { made, action } }) => [...made, action]);

export function searchLane(context: PlanContext, lane: Lane, from: PlanState): SearchedLane {
  const ruledOut = ruledOutAtOnce(context, lane);
  if (ruledOut !== null) return { kind: 'out', verdict: 'impossible', reason: ruledOut, refused: [] };
  const { result, seen } = explore(context, lane, from, false);
  if (result.kind === 'found') {
    const { apply } = stepsIn(context, lane);
    const order = makeEarly(from, stepsOf(result.moves), apply);
    return { kind: 'found', moves: played(context, from, order, apply) };
  }
  const refused = [...seen.refused.values()].flatMap((one) => [...one.values()]);
  return result.kind === 'exhausted'
    ? { kind: 'out', verdict: 'impossible', reason: whyNot(context, lane, seen), refused }
    : {
        kind: 'out',
        verdict: 'not found',
        reason: `No way was found among the first ${BUDGET} states.`,
        refused,
      };
}

/** Some way there, whatever it costs; null where none was found. */
export function anyWay(context: PlanContext, lane: Lane): readonly PlanAction[] | null {
  if (ruledOutAtOnce(context, lane) !== null) return null;
  const { result } = explore(context, lane, startOf(context), true);
  return result.kind === 'found' ? stepsOf(result.moves) : null;
}

/** Whether these very steps lead there too. */
export function leadsThere(context: PlanContext, lane: Lane, steps: readonly PlanAction[]): boolean {
  if (ruledOutAtOnce(context, lane) !== null) return false;
  const { apply } = stepsIn(context, lane);
  let state = startOf(context);
  for (const action of steps) {
    const done = apply(action, state);
    if (!done.ok) return false;
    ({ state } = done);
  }
  return marksOf(context, lane).every((mark) => hasMade(state, mark)) && reached(context, state);
}

/** The handset as it is, with what is in the vault. */
export const startOf = ({ start, kept }: PlanContext): PlanState => ({
  handset: start,
  made: [...kept].sort(),
});

/** The steps in their order, each with the state that it leads to and what it costs there. */
function played(
  context: PlanContext,
  from: PlanState,
  order: readonly PlanAction[],
  apply: Applying,
): LaneMove[] {
  let before = from;
  return order.map((action) => {
    const done = apply(action, before);
    if (!done.ok) throw new EternoError('internal', `a plan does not play: ${action.id}: ${done.reason}`);
    const move = { action, state: done.state, cost: costOf(context, action, before, done.state) };
    before = done.state;
    return move;
  });
}
