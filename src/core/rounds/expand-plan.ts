import { buildFacts } from '../handset/builds';
import type { HandsetState } from '../handset/state';
import type { PlanContext } from '../planning/context';
import { isUpdate } from '../planning/goals';
import type { LanePlan } from '../planning/plan-round';
import { stopHere } from '../planning/stop-here';
import { DEEDS } from '../steps/deeds';
import type { NewStep, RouteMode } from './round';
import type { StepKey } from '../steps/step-key';
import { endsWords } from '../words/plan';

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

/** The steps of a round in a lane, in order. */
export function expandPlan(context: PlanContext, plan: LanePlan): NewStep[] {
  const ends = stopHere(context, plan);
  const rooted = isUpdate(context.goal) || context.goal === 'first root' || context.goal === 'root again';
  const quiet = (
    key: StepKey,
    mode: RouteMode,
    at: HandsetState,
    minutes: readonly [number, number],
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
      ifItEndsHere: NOTHING_CHANGED,
    },
  });
  // a handset that does not run says nothing yet: its bootloader is read on the way
  const steps: NewStep[] =
    context.start.mode === 'system' ? [quiet('read-facts', 'system', context.start, [0.1, 0.5])] : [];
  let before = context.start;
  let protectedYet = false;
  let checked = false;
  plan.steps.forEach((step, i) => {
    const { writes, touches, holds } = DEEDS[step.action];
    const changes = writes !== null || touches === true;
    const leaves = step.who !== 'computer' && step.after.mode !== before.mode;
    if (!protectedYet && (changes || leaves || step.action === 'modules-off')) {
      if (plan.steps.some((one) => one.after.data.wipes > context.start.data.wipes))
        steps.push(
          quiet('back-up', 'system', before, [10, 60]),
          quiet('guard-off', 'system', before, [2, 10]),
        );
      steps.push(quiet('protect', 'computer', before, [1, 10]));
      protectedYet = true;
    }
    if (!checked && changes) {
      steps.push(quiet('check', modeOf(before), before, [0.2, 2]));
      checked = true;
    }
    const { after } = step;
    const starts = DEEDS[step.action].starts === true;
    // an update makes the other slot the active one while this one still runs
    const slot = starts ? before.active : (before.running?.slot ?? before.active);
    steps.push({
      key: step.action,
      planned: {
        version: 1,
        slot,
        build: before.builds[slot],
        mode: step.who === 'computer' ? 'computer' : after.mode,
        writes: step.writes,
        erases: after.data.wipes > before.data.wipes,
        starts,
        holds: holds !== undefined && endsLater(plan, i),
        pointOfNoReturn: gone(before, after, context),
        rootAfter: after.running?.rooted ?? null,
        offers: step.offers,
        minutes: step.minutes,
        ifItEndsHere:
          endsWords(ends[i]!.says) +
          (ends[i]!.wayBack
            ? ` Cheapest way back: ${ends[i]!.wayBack.lane.toLowerCase()}, ${ends[i]!.wayBack.minutes} min.`
            : ''),
      },
    });
    before = after;
  });
  if (rooted) steps.push(quiet('look-around', 'system', before, [1, 5]));
  steps.push(quiet('close', 'system', before, [0.2, 1]));
  return steps;
}

const modeOf = ({ mode }: HandsetState): RouteMode => mode;

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
