import { DEEDS } from '../steps/deeds';
import type { Refusal } from '../words/refusals';
import type { Command, Moment } from './command';
import type { Decision } from './decision';
import { NOTHING_DECIDED } from './decision';
import type { RoundStep } from './round';
import { changed, seenAs } from './step-ends';

/* Root that was proved is proved once more after a restart that nothing but this asked for. */

/** The step that root was proved at; null before it is done, or where the round has none. */
export const provedRoot = <S extends Pick<RoundStep, 'key' | 'state'>>(steps: readonly S[]): S | null =>
  steps.findLast(
    ({ key, state }) => state === 'done' && DEEDS[key].proves?.includes('root-works') === true,
  ) ?? null;

/** What was seen then stands at the step that proved it, and speaks for its lasting only. */
export function provedAgain(
  moment: Moment,
  { stepId, evidence, seen }: Extract<Command, { do: 'prove-again' }>,
): Decision | Refusal {
  const step = moment.steps.find(({ id }) => id === stepId);
  if (!step || DEEDS[step.key].proves?.includes('root-works') !== true) return { because: 'another-step' };
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen),
    steps: changed(moment.steps, stepId, {
      state: 'done',
      evidence: [...step.evidence, ...evidence.map((one) => ({ ...one, about: 'root-lasts' as const }))],
    }),
  };
}
