import { buildFacts } from '../handset/builds';
import type { HandsetState, Slot } from '../handset/state';
import type { PlanContext } from '../planning/context';
import { isUpdate } from '../planning/goals';
import type { LanePlan } from '../planning/plan-round';
import { stopHere } from '../planning/stop-here';
import { DEEDS } from '../steps/deeds';
import type { StepKey } from '../steps/step-kind';

/* A plan as the steps of a round: what stands around every plan is put round it. */

export type RouteMode =
  'computer' | 'off' | 'starting' | 'system' | 'bootloader' | 'userspace' | 'download' | 'recovery' | 'sideload' | 'looping' | 'dead';

/** What the plan says of one step; kept with the round. Builds are fingerprints. */
export interface PlannedAbout {
  readonly version: 1;
  /** Slot the handset is on when the step begins. */
  readonly slot: Slot;
  /** System build on that slot when the step begins. */
  readonly build: string;
  /** Where the handset is when it is over. */
  readonly mode: RouteMode;
  readonly writes: boolean;
  readonly erases: boolean;
  /** A restart that belongs here. */
  readonly starts: boolean;
  /** From here on nothing may restart until a step that starts. */
  readonly holds: boolean;
  /** After it there is no way back by the other slot, or none at all. */
  readonly pointOfNoReturn: boolean;
  /** Whether root runs when it is over; null where nothing runs. */
  readonly rootAfter: boolean | null;
  readonly offers: number;
  readonly minutes: readonly [number, number];
  readonly ifItEndsHere: string;
}

export interface RoundStep {
  readonly key: StepKey;
  readonly about: PlannedAbout;
}

const NOTHING_CHANGED = 'Nothing has changed on the handset.';

function gone(before: HandsetState, after: HandsetState, context: PlanContext): boolean {
  const erased = after.data.wipes > before.data.wipes;
  const merging = before.snapshot !== 'merging' && after.snapshot === 'merging';
  const level = (state: HandsetState) => state.floors.fuse;
  return erased || merging || level(after) > level(before) || (after.data.committedBy !== before.data.committedBy && newer(context, after, before));
}
const newer = ({ profile }: PlanContext, after: HandsetState, before: HandsetState) =>
  before.data.committedBy !== null &&
  after.data.committedBy !== null &&
  buildFacts(profile, after.data.committedBy).patchLevel > buildFacts(profile, before.data.committedBy).patchLevel;

/** The steps of a round in a lane, in order. */
export function expandPlan(context: PlanContext, plan: LanePlan): RoundStep[] {
  const ends = stopHere(context, plan);
  const rooted = isUpdate(context.goal) || context.goal === 'first root' || context.goal === 'root again';
  const quiet = (key: StepKey, mode: RouteMode, at: HandsetState, minutes: readonly [number, number]): RoundStep => ({
    key,
    about: {
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
  const steps: RoundStep[] = context.start.mode === 'system' ? [quiet('read-facts', 'system', context.start, [0.1, 0.5])] : [];
  let before = context.start;
  let protectedYet = false;
  let checked = false;
  plan.steps.forEach((step, i) => {
    const { writes, touches, holds } = DEEDS[step.action];
    const changes = writes !== null || touches === true;
    const leaves = step.who !== 'computer' && step.after.mode !== before.mode;
    if (!protectedYet && (changes || leaves || step.action === 'modules-off')) {
      if (plan.steps.some((one) => one.after.data.wipes > context.start.data.wipes))
        steps.push(quiet('back-up', 'system', before, [10, 60]), quiet('guard-off', 'system', before, [2, 10]));
      steps.push(quiet('protect', 'computer', before, [1, 10]));
      protectedYet = true;
    }
    if (!checked && changes) {
      steps.push(quiet('check', modeOf(before), before, [0.2, 2]));
      checked = true;
    }
    const { after } = step;
    const starts = step.action === 'start' || step.action === 'finish-start';
    // an update makes the other slot the active one while this one still runs
    const slot = starts ? before.active : (before.running?.slot ?? before.active);
    steps.push({
      key: step.action,
      about: {
        version: 1,
        slot,
        build: before.builds[slot],
        mode: step.who === 'computer' ? 'computer' : (after.mode as RouteMode),
        writes: step.writes,
        erases: after.data.wipes > before.data.wipes,
        starts,
        holds: holds === true && holdsUntilStart(plan, i),
        pointOfNoReturn: gone(before, after, context),
        rootAfter: after.running?.rooted ?? null,
        offers: step.offers,
        minutes: step.minutes,
        ifItEndsHere:
          ends[i]!.sentence +
          (ends[i]!.wayBack ? ` Cheapest way back: ${ends[i]!.wayBack.lane.toLowerCase()}, ${ends[i]!.wayBack.minutes} min.` : ''),
      },
    });
    before = after;
  });
  if (rooted) steps.push(quiet('look-around', 'system', before, [1, 5]));
  steps.push(quiet('close', 'system', before, [0.2, 1]));
  return steps;
}

const modeOf = ({ mode }: HandsetState): RouteMode => mode;

/** Some start follows it: an earlier one than planned is a slip. */
function holdsUntilStart(plan: LanePlan, at: number): boolean {
  const { action } = plan.steps[at]!;
  const later = plan.steps.slice(at + 1);
  if (action === 'write-recovery') return later[0]?.action === 'recovery';
  if (action === 'start-once') return later.some((step) => step.action === 'make-lasting' || step.action === 'zip-inside');
  return later.some((step) => step.action === 'start');
}
