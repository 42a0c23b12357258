import type { GoalId, Limits } from '@/core/planning/context';
import type { LintNote } from '@/core/planning/lint';
import type { LanePlan, RuledOutLane } from '@/core/planning/plan-round';
import type { PlanRisk } from '@/core/planning/slips';
import type { StepView } from './step-view';

export interface LanePlanView extends Omit<LanePlan, 'steps'> {
  readonly steps: readonly StepView[];
  readonly notes: readonly LintNote[];
  readonly risk: PlanRisk;
}

export interface WaysView {
  readonly handset: { readonly id: string; readonly name: string; readonly build: string | null };
  readonly goal: GoalId;
  readonly goals: readonly { readonly id: GoalId; readonly words: string }[];
  /** Builds of this handset that are known, the oldest first. */
  readonly builds: readonly { readonly fingerprint: string; readonly buildId: string }[];
  readonly limits: Limits;
  /** Packages that can be installed from the running system, the newest first. */
  readonly installs: readonly { readonly sha256: string; readonly name: string }[];
  /** The one of them that is planned. */
  readonly install: string | null;
  /** The kit that would patch, as `id version`; null where none in the vault supports it, or nothing was planned. */
  readonly kit: string | null;
  /** Fingerprint of the build that runs in the end. */
  readonly target: string | null;
  readonly plans: readonly LanePlanView[];
  readonly others: readonly RuledOutLane[];
  readonly pick: string | null;
  readonly why: string;
  /** What is not known and was taken for granted. */
  /** What is taken for granted, and what finds it out. */
  readonly assumptions: readonly { readonly words: string; readonly foundBy: string }[];
  /** The last good round of this kind; only what changed since is lit up. */
  readonly last: {
    readonly id: string;
    readonly lane: string;
    readonly closedAt: number;
    readonly minutes: number;
    readonly keys: readonly string[];
  } | null;
  /** The newest round of this kind, where it would not be done the same way again. */
  readonly notAgain: {
    readonly id: string;
    readonly lane: string;
    readonly closedAt: number;
    readonly note: string;
  } | null;
  /** Why there are no plans at all, where there are none. */
  readonly missing: string | null;
}
