import { basename } from 'node:path';
import { parsePlanInput } from '@/contracts/plan-input';
import { EternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import { planRound } from '@/core/planning/plan-round';
import { lintPlan } from '@/core/planning/lint';
import { riskOf } from '@/core/planning/slips';
import { stopHere } from '@/core/planning/stop-here';
import { parseArguments } from './arguments';
import { withFile } from './files';
import type { Verb } from './verb';
import { endsWords, LINT_WORDS } from '@/core/words/plan';

/**
 * `plan STATE.json`: lanes and plans for a handset's state and a goal, each step with what the handset is if
 * it ends there.
 */
export const plan: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  const path = positionals[0]!;
  const text = await withFile(path, async (source) => {
    if (source.size > LIMITS.factsTextBytes)
      throw new EternoError('too-large', 'a state has no such length', { file: source.name });
    return new TextDecoder().decode(await source.read(0, source.size));
  });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (thrown) {
    throw new EternoError('bad-field', 'the state is no JSON', { file: basename(path), cause: thrown });
  }
  const context = await parsePlanInput(value);
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
