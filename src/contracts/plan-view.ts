import type { GoalId, Limits } from '@/core/planning/context';
import type { LanePlan, RuledOutLane } from '@/core/planning/plan-round';
import type { LintNote } from '@/core/planning/lint';
import type { PlanRisk } from '@/core/planning/slips';
import type { StopHere } from '@/core/planning/stop-here';

/** One step of a plan as a page shows it. */
export interface PlanStepView {
  readonly title: string;
  readonly who: 'computer' | 'handset' | 'link' | 'root';
  readonly minutes: readonly [number, number];
  readonly writes: boolean;
  readonly wipes: boolean;
  readonly starts: boolean;
  /** Where the handset is when it is over. */
  readonly mode: string;
  readonly ifItEndsHere: StopHere;
}

export interface LanePlanView extends Omit<LanePlan, 'steps'> {
  readonly steps: readonly PlanStepView[];
  /** Whether a round can be walked through step by step in this lane. */
  readonly walkable: boolean;
  readonly notes: readonly LintNote[];
  readonly risk: PlanRisk;
}

export interface WaysView {
  readonly goal: GoalId;
  readonly goals: readonly { readonly id: GoalId; readonly words: string }[];
  readonly limits: Limits;
  readonly target: string | null;
  readonly plans: readonly LanePlanView[];
  readonly others: readonly RuledOutLane[];
  readonly pick: string | null;
  readonly why: string;
  /** What is not known and was taken for granted. */
  readonly assumptions: readonly string[];
  /** Why there are no plans at all, where there are none. */
  readonly missing: string | null;
}
