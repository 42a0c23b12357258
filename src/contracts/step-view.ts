import type { PlannedAbout, StepState } from '@/core/rounds/round';
import type { StepKey } from '@/core/steps/step-key';

/** A step on a page, of a plan or of a round that is under way. */
export interface StepView extends PlannedAbout {
  readonly key: StepKey;
  readonly title: string;
  readonly state: StepState;
}
