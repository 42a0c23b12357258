import { parsePlanInput } from '@/contracts/plan-input';
import type { PlanContext } from '@/core/planning/context';
import { planRound } from '@/core/planning/plan-round';
import { lintPlan } from '@/core/planning/lint';
import { riskOf } from '@/core/planning/slips';
import type { StopHere } from '@/core/planning/stop-here';
import type { LaidOut } from '@/core/rounds/expand-plan';
import { layOut } from '@/core/rounds/expand-plan';
import type { NewStep } from '@/core/rounds/round';
import { stepAbout } from '@/core/steps/step-about';
import { STEP_KINDS } from '@/core/steps/step-table';
import { endsWords, LINT_WORDS } from '@/core/words/plan';
import { parseArguments } from './arguments';
import { readJson } from './files';
import type { Verb } from './verb';

const ended = (end: StopHere) => ({
  starts: end.starts,
  slot: end.slot,
  build: end.build,
  rooted: end.runningRoot,
  rootedOnDisk: end.rootOnDisk,
  mode: end.mode,
  wiped: end.wiped,
  wayBack: end.wayBack
    ? `${end.wayBack.lane}: ${end.wayBack.steps} steps, ${end.wayBack.minutes} min`
    : end.starts
      ? 'It starts by itself.'
      : 'None was found.',
  sentence: endsWords(end.says),
});

/** Steps around a plan are called what they are called on a page. */
const titleOf = (
  { profile, recovery, target, unknown = [] }: PlanContext,
  { key, planned }: NewStep,
): string =>
  STEP_KINDS[key].text(
    stepAbout('the handset', profile, recovery?.name ?? null, target, planned, { unknown }),
  ).title;

const stepOf = (context: PlanContext, { step, planned, does, ends }: LaidOut) => ({
  action: step.key,
  title: planned?.title ?? titleOf(context, step),
  who: planned?.who ?? 'person',
  minutes: step.planned.minutes,
  writes: step.planned.writes,
  does,
  ifItEndsHere: ended(ends.asItStays),
  ifPowerIsLost: ended(ends.powerLost),
});

/**
 * `plan STATE.json`: lanes and plans for a handset's state and a goal, each step with what it really does, and
 * what the handset is if it ends there.
 */
export const plan: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  const context = await parsePlanInput(await readJson(positionals[0]!));
  const { plans, others, pick, why } = planRound(context);
  return {
    pick,
    why,
    unknown: context.unknown ?? [],
    plans: plans.map((one) => {
      const { lane, figures, score, survives, lost } = one;
      return {
        lane,
        figures,
        score,
        survives,
        lost,
        steps: layOut(context, one).map((step) => stepOf(context, step)),
        notes: lintPlan(context, one).map(({ step, code }) => ({ step, sentence: LINT_WORDS[code] })),
        risk: riskOf(context, one),
      };
    }),
    others,
  };
};
