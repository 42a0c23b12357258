import { buildFacts } from '../handset/builds';
import type { HandsetState } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { PlanContext } from '../planning/context';
import { goesToStock, wantsRoot } from '../planning/goals';
import type { LanePlan, PlannedStep } from '../planning/plan-round';
import { tagsOf } from '../planning/does';
import type { Ends, StopHere } from '../planning/stop-here';
import { endsAt, stopHere } from '../planning/stop-here';
import { DEEDS } from '../steps/deeds';
import type { NewStep, RouteMode } from './round';
import type { StepKey } from '../steps/step-key';
import { endsWords } from '../words/plan';
import { lowerFirst } from '../words/sentence';

/* A plan as the steps of a round: what stands around every plan is put round it. */

const NOTHING_CHANGED = 'Nothing has changed on the handset.';

function gone(before: HandsetState, after: HandsetState, context: PlanContext): boolean {
  const erased = after.data.wipes > before.data.wipes;
  const merging = before.snapshot !== 'merging' && after.snapshot === 'merging';
  const level = (state: HandsetState) => state.floors.fuse;
  return (
    erased ||
    merging ||
    level(after) > level(before) ||
    (after.data.committedBy !== before.data.committedBy && newer(context, after, before))
  );
}
const newer = ({ profile }: PlanContext, after: HandsetState, before: HandsetState) =>
  before.data.committedBy !== null &&
  after.data.committedBy !== null &&
  buildFacts(profile, after.data.committedBy).patchLevel >
    buildFacts(profile, before.data.committedBy).patchLevel;

/** A step around the plan, in which nothing of the handset changes. */
const quiet = (
  key: StepKey,
  mode: RouteMode,
  at: HandsetState,
  minutes: readonly [number, number],
  ifItEndsHere = NOTHING_CHANGED,
): NewStep => ({
  key,
  planned: {
    version: 1,
    slot: at.active,
    build: at.builds[at.active],
    mode,
    writes: false,
    erases: false,
    starts: false,
    holds: false,
    pointOfNoReturn: false,
    rootAfter: at.running?.rooted ?? null,
    offers: 0,
    minutes,
    ifItEndsHere,
  },
});

const changesIt = ({ action }: PlannedStep) =>
  DEEDS[action].writes !== null || DEEDS[action].touches === true;

/** An image of the vault goes to the handset; a package that is sent as it is does not come from there. */
const sendsFromVault = ({ action }: PlannedStep) =>
  DEEDS[action].image !== undefined || DEEDS[action].writes?.parts !== undefined;

/** What is done before the first step that changes the handset. */
const beforeTheChange = ({ limits }: PlanContext, plan: LanePlan, at: HandsetState): NewStep[] => [
  ...(limits.secondHandset === true && plan.steps.some(sendsFromVault)
    ? [quiet('carry-over', at.mode, at, [1, 15])]
    : []),
  quiet('check', at.mode, at, [0.2, 2]),
];

/** What is done before the plan's first step that leaves the system or changes something. */
const beforeTheFirst = (wipes: boolean, at: HandsetState): NewStep[] => [
  ...(wipes ? [quiet('back-up', 'system', at, [10, 60]), quiet('guard-off', 'system', at, [2, 10])] : []),
  // the way back of one that does not start is this very plan: where it erases nothing, nothing is put before it
  ...(at.mode === 'looping' && !wipes ? [] : [quiet('protect', 'computer', at, [1, 10])]),
];

/**
 * Before which step of the plan root is asked for and has to be refused; null where nothing goes to stock. It is
 * after the last start that is seen, and before it is locked: that erases, and its debugging is off then.
 */
function asksForNoRoot({ goal, start }: PlanContext, { steps }: LanePlan): number | null {
  if (!goesToStock(goal)) return null;
  const lockAt = steps.findIndex(({ action }) => action === 'lock');
  const before = lockAt < 0 ? steps : steps.slice(0, lockAt);
  const started = before.findLastIndex(
    ({ action, after }) => DEEDS[action].starts === true && after.mode === 'system',
  );
  if (started >= 0) return started + 1;
  if (lockAt >= 0) return start.mode === 'system' ? 0 : null;
  return (steps.at(-1)?.after ?? start).mode === 'system' ? steps.length : null;
}

/** A step of a round with what the plan knows of it. */
export interface LaidOut {
  readonly step: NewStep;
  /** The plan's own step that it is; null for one that stands around every plan. */
  readonly planned: PlannedStep | null;
  readonly ends: Ends;
  /** What it really does, as tags. */
  readonly does: readonly string[];
}

/** The steps of a round in a lane, in order. */
export const expandPlan = (context: PlanContext, plan: LanePlan): NewStep[] =>
  layOut(context, plan).map(({ step }) => step);

/** The same with the ends and the effects of each. */
export function layOut(context: PlanContext, plan: LanePlan): LaidOut[] {
  const ends = stopHere(context, plan);
  const wipes = plan.steps.some((one) => one.after.data.wipes > context.start.data.wipes);
  const before = (i: number) => (i === 0 ? context.start : plan.steps[i - 1]!.after);
  const madeBefore = (i: number) => (i === 0 ? context.kept : plan.steps[i - 1]!.made);
  const firstChange = plan.steps.findIndex(changesIt);
  const firstLeave = plan.steps.findIndex(
    (step, i) =>
      changesIt(step) ||
      step.action === 'modules-off' ||
      (step.who !== 'computer' && step.after.mode !== before(i).mode),
  );
  const noRootAt = asksForNoRoot(context, plan);
  const second = context.limits.secondHandset === true;
  const last = plan.steps.at(-1)?.after ?? context.start;
  const first = endsAt(context, context.start, context.kept);
  // by then the plan is done: what it leaves is what the handset is
  const lastEnd = ends.at(-1);
  const changed = firstChange >= 0 || last.insideRoot !== context.start.insideRoot;
  const afterIt = !changed || !lastEnd ? NOTHING_CHANGED : endWords(lastEnd);
  const around = (steps: readonly NewStep[], end: Ends): LaidOut[] =>
    steps.map((step) => ({ step, planned: null, ends: end, does: tagsAround(context, step.key) }));
  return [
    // a handset that does not run says nothing yet: its bootloader is read on the way
    ...around(
      context.start.mode === 'system' ? [quiet('read-facts', 'system', context.start, [0.1, 0.5])] : [],
      first,
    ),
    ...around(toFindOut(context), first),
    ...plan.steps.flatMap((planned, i) => [
      ...around(
        i === firstLeave
          ? [
              ...beforeTheFirst(wipes, before(i)),
              ...(second && before(i).mode === 'system'
                ? [quiet('second-host', 'system', before(i), [2, 10])]
                : []),
            ]
          : [],
        i === 0 ? first : ends[i - 1]!,
      ),
      ...around(
        [
          ...(i === firstChange ? beforeTheChange(context, plan, before(i)) : []),
          // root that was there before would prove nothing afterwards
          ...(planned.action === 'open-root' || i === noRootAt
            ? [quiet('prove-no-root', 'system', before(i), [0.2, 1])]
            : []),
        ],
        i === 0 ? first : ends[i - 1]!,
      ),
      {
        step: asStep(context, plan, i, before(i), ends[i]!),
        planned,
        ends: ends[i]!,
        does: tagsOf(context, {
          action: planned.action,
          before: before(i),
          after: planned.after,
          madeBefore: madeBefore(i),
          made: planned.made,
        }),
      },
    ]),
    ...around(
      [
        ...(noRootAt === plan.steps.length
          ? [quiet('prove-no-root', 'system', last, [0.2, 1], afterIt)]
          : []),
        ...(wantsRoot(context.goal) ? [quiet('look-around', 'system', last, [1, 5], afterIt)] : []),
        quiet('close', 'system', last, [0.2, 1], afterIt),
      ],
      lastEnd ?? first,
    ),
  ];
}

/** What the plan depends on and nobody has read comes before everything that changes the handset. */
const toFindOut = ({ unknown = [], start: at }: PlanContext): NewStep[] =>
  unknown.length === 0
    ? []
    : [quiet('find-out', at.mode === 'system' ? 'system' : 'bootloader', at, [0.5, 5])];

/** What the steps around a plan do. */
function tagsAround({ unknown = [], goal }: PlanContext, key: StepKey): readonly string[] {
  switch (key) {
    case 'read-facts':
      return ['read:build', 'read:slot', 'read:lock', 'read:battery', 'read:snapshot'];
    case 'find-out':
      return unknown.map((what) => `read:${what}`);
    case 'back-up':
      return ['backup:data'];
    case 'check':
      return ['read:battery'];
    case 'prove-no-root':
      return goesToStock(goal) ? ['prove:no-root'] : [];
    default:
      return [];
  }
}

/** What is so after a power loss is said only where it differs. */
function endWords({ asItStays, powerLost }: Ends): string {
  const back = ({ wayBack }: StopHere) =>
    wayBack ? ` Cheapest way back: ${lowerFirst(wayBack.lane)}, ${wayBack.minutes} min.` : '';
  const [stays, lost] = [asItStays, powerLost].map((end) => endsWords(end.says) + back(end));
  return stays === lost ? stays! : `${stays} If its power is lost: ${lowerFirst(lost!)}`;
}

function asStep(context: PlanContext, plan: LanePlan, i: number, before: HandsetState, end: Ends): NewStep {
  const step = plan.steps[i]!;
  const { after } = step;
  const starts = DEEDS[step.action].starts === true;
  // an update makes the other slot the active one while this one still runs
  const own = starts ? before.active : (before.running?.slot ?? before.active);
  const slot = DEEDS[step.action].onOther === true ? otherSlot(own) : own;
  return {
    key: step.action,
    planned: {
      version: 1,
      slot,
      build: DEEDS[step.action].ofOlder ? context.looseBuild! : before.builds[slot],
      mode: step.who === 'computer' ? 'computer' : after.mode,
      writes: step.writes,
      erases: after.data.wipes > before.data.wipes,
      starts,
      holds: DEEDS[step.action].holds !== undefined && endsLater(plan, i),
      pointOfNoReturn: gone(before, after, context),
      rootAfter: after.running?.rooted ?? null,
      offers: step.offers,
      minutes: step.minutes,
      ifItEndsHere: endWords(end),
    },
  };
}

/** What ends the hold follows it: an earlier restart than planned is a slip. */
function endsLater(plan: LanePlan, at: number): boolean {
  const { action } = plan.steps[at]!;
  const later = plan.steps.slice(at + 1).map((step) => DEEDS[step.action]);
  // a recovery that was written has to be gone into at once, else the next start may have put the maker's
  // back
  if (DEEDS[action].image?.what === 'own recovery') return later[0]?.letsGo !== undefined;
  if (DEEDS[action].root === 'from memory') return later.some(({ root }) => root === 'lasting');
  return later.some(({ starts }) => starts === true);
}
