import fc from 'fast-check';
import { parsePlanInput } from '@/contracts/plan-input';
import type { PlanContext } from '@/core/planning/context';
import { planRound } from '@/core/planning/plan-round';
import { riskOf } from '@/core/planning/slips';
import { layOut } from '@/core/rounds/expand-plan';
import { WORLDS } from '../tests/fixtures/lane-worlds';
import { inputOf, situations } from '../tests/fixtures/plan-situations';

/* How long the planner takes. */

export interface PlanFigures {
  /** The slowest situation of those that people meet, in milliseconds. */
  readonly slowestMs: number;
  /** Its comparison: every lane with what is left at every step, power lost too, and its slips. */
  readonly comparedMs: number;
  /** 1,000 seeded states, in seconds. */
  readonly thousandSeconds: number;
}

const STATES = 1000;

function timed(work: () => unknown): number {
  const began = performance.now();
  work();
  return performance.now() - began;
}

export async function measurePlans(): Promise<PlanFigures> {
  const worlds: readonly PlanContext[] = Object.values(WORLDS);
  for (const context of worlds) planRound(context);
  const slowestMs = Math.max(...worlds.map((context) => timed(() => planRound(context))));
  const comparedMs = Math.max(
    ...worlds.map((context) => {
      const { plans } = planRound(context);
      return timed(() => plans.map((plan) => [layOut(context, plan), riskOf(context, plan)]));
    }),
  );
  const inputs = fc.sample(situations, { numRuns: STATES, seed: 20261129 }).map(inputOf);
  const states = await Promise.all(inputs.map((input) => parsePlanInput(input)));
  const thousandSeconds = timed(() => states.forEach((context) => planRound(context))) / 1000;
  return { slowestMs, comparedMs, thousandSeconds };
}
