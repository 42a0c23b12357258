import type { Stage } from '../steps/step-kind';
import { STAGES } from '../steps/step-kind';

export interface StageTime {
  readonly stage: Stage;
  readonly seconds: number;
}

/** What steps took, stage by stage in their order; a stage in which nothing took time is left out. */
export function stageTimes(
  steps: readonly { readonly stage: Stage; readonly seconds: number | null }[],
): readonly StageTime[] {
  const seconds = new Map<Stage, number>();
  for (const step of steps) seconds.set(step.stage, (seconds.get(step.stage) ?? 0) + (step.seconds ?? 0));
  return STAGES.flatMap((stage) =>
    (seconds.get(stage) ?? 0) > 0 ? [{ stage, seconds: seconds.get(stage)! }] : [],
  );
}
