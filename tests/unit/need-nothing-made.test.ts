import fc from 'fast-check';
import { expect, it } from 'vitest';
import { parsePlanInput } from '@/contracts/plan-input';
import { ACTIONS } from '@/core/planning/actions';
import type { PlanContext, PlanState } from '@/core/planning/context';
import { withMade } from '@/core/planning/context';
import { NEED_NOTHING_MADE } from '@/core/planning/make-first';
import { planRound } from '@/core/planning/plan-round';
import { inputOf, situations } from '../fixtures/plan-situations';
import { tries } from '../fixtures/soak';

/** With all that a computer could ever make for the builds of a situation. */
function everythingMade({ start, target }: PlanContext, state: PlanState): PlanState {
  const builds = [...Object.values(start.builds), ...Object.values(state.handset.builds), target];
  const kinds = ['package', 'stock', 'stock recovery', 'patched', 'whole'];
  return withMade(state, ...new Set(builds.flatMap((build) => kinds.map((kind) => `${kind} ${build}`))));
}

it('what is made on the computer changes nothing of the steps that are said to need none of it', async () => {
  let looked = 0;
  await fc.assert(
    fc.asyncProperty(situations, async (situation) => {
      const context = await parsePlanInput(inputOf(situation));
      const begin: PlanState = { handset: context.start, made: [] };
      const states = planRound(context).plans.flatMap(({ steps }) =>
        steps.map(({ after }): PlanState => ({ handset: after, made: [] })),
      );
      for (const state of [begin, ...states])
        for (const id of NEED_NOTHING_MADE) {
          const [bare, whole] = [state, everythingMade(context, state)].map((one) =>
            ACTIONS[id].apply(context, one),
          );
          looked += 1;
          expect(bare!.ok ? bare!.state.handset : bare!.reason, id).toEqual(
            whole!.ok ? whole!.state.handset : whole!.reason,
          );
        }
    }),
    tries(60),
  );
  expect(looked).toBeGreaterThan(2000);
});
