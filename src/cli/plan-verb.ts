import { parsePlanInput } from '@/contracts/plan-input';
import { planRound } from '@/core/planning/plan-round';
import { lintPlan } from '@/core/planning/lint';
import { riskOf } from '@/core/planning/slips';
import { stopHere } from '@/core/planning/stop-here';
import { parseArguments } from './arguments';
import { readJson } from './files';
import type { Verb } from './verb';
import { endsWords, LINT_WORDS } from '@/core/words/plan';

/**
 * `plan STATE.json`: lanes and plans for a handset's state and a goal, each step with what the handset is if
 * it ends there.
 */
export const plan: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  const context = await parsePlanInput(await readJson(positionals[0]!));
  const { plans, others, pick, why } = planRound(context);
  return {
    pick,
    why,
    plans: plans.map((one) => {
      const ends = stopHere(context, one);
      const { lane, figures, score, survives, lost } = one;
      const steps = one.steps.map(({ action, title, who, minutes, writes }, i) => ({
        action,
        title,
        who,
        minutes,
        writes,
        ifItEndsHere: { ...ends[i]!, sentence: endsWords(ends[i]!.says) },
      }));
      return {
        lane,
        figures,
        score,
        survives,
        lost,
        steps,
        notes: lintPlan(context, one).map(({ step, code }) => ({ step, sentence: LINT_WORDS[code] })),
        risk: riskOf(context, one),
      };
    }),
    others,
  };
};
