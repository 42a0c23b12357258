import type { ErrorData } from '../errors';
import type { Check, Override } from '../gates/check';
import type { BringBack } from '../modules/bring-back';
import type { GoalId } from '../planning/context';
import type { RootState } from '../schedule/continuity';
import type { Evidence } from './evidence';
import type { BackupNote, KeptPlan, NewStep, Round, RoundStep, Seen, SlotReport } from './round';
import type { SignOffClaim } from './sign-off';

/* What can be asked of a round, and what the answer is made from. */

/** What a command is decided from, read together. */
export interface Moment {
  readonly round: Round;
  readonly steps: readonly RoundStep[];
  /** Temporary changes of the handset that are open. */
  readonly putBacks: readonly { readonly id: string; readonly kind: string }[];
  /** What was last told of its root; null where nothing was. */
  readonly root: RootState | null;
  /**
   * What the vault and the shelf of packages prove of a step, in a round of these steps; null where nothing.
   */
  readonly proves: (
    step: NewStep,
    steps: readonly NewStep[],
    target: string | null,
  ) => readonly Evidence[] | null;
}

/** A way on that was planned from what is known now. */
export interface FreshPlan {
  readonly goal: GoalId;
  readonly lane: string;
  readonly target: string;
  readonly plan: KeptPlan;
  readonly steps: readonly NewStep[];
  /** Build that runs, as it was read last. */
  readonly installed: string | null;
}

export type Command =
  /** Eterno begins a step over the link; putting stock back runs on a step that may be done already. */
  | {
      readonly do: 'begin';
      readonly stepId: string;
      readonly checks: readonly Check[];
      readonly overrides: readonly Override[];
    }
  /**
   * A step that ran over the link is over. `fresh` is the plan from here, where what was read may ask for
   * another.
   */
  | {
      readonly do: 'finish';
      readonly stepId: string;
      readonly evidence: readonly Evidence[];
      readonly seen: Seen;
      readonly fresh: FreshPlan | null;
    }
  | {
      readonly do: 'fail';
      readonly stepId: string;
      readonly error: ErrorData;
      readonly written: readonly string[];
      readonly doubt: readonly Partition[];
      readonly seen: Seen;
    }
  | { readonly do: 'interrupt'; readonly stepId: string; readonly doubt: readonly Partition[] }
  /** Stock was put back: the round stands before its last write again. */
  | {
      readonly do: 'stand-before';
      readonly stepId: string;
      readonly evidence: readonly Evidence[];
      readonly seen: Seen;
    }
  /** By hand, at the step to do now. */
  | {
      readonly do: 'say';
      readonly words: string;
      readonly checks: readonly Check[];
      readonly slots: readonly SlotReport[];
    }
  | { readonly do: 'paste'; readonly evidence: readonly Evidence[]; readonly fresh: FreshPlan | null }
  | { readonly do: 'code'; readonly code: string }
  | {
      readonly do: 'confirm';
      readonly checks: readonly Check[] | null;
      readonly overrides: readonly Override[];
    }
  | { readonly do: 'back-up'; readonly what: BackupNote['what'] | 'none'; readonly note: string }
  | { readonly do: 'protect'; readonly rescuePage: boolean; readonly reason: string }
  | { readonly do: 'look-around'; readonly answers: Readonly<Record<'data' | 'calls' | 'payments', string>> }
  | {
      readonly do: 'batch';
      readonly batch: readonly string[];
      readonly outcome: 'started' | 'looped';
      readonly before: BringBack;
      readonly after: BringBack;
      readonly stays: readonly string[];
      readonly byHand: boolean;
    }
  | { readonly do: 'settle' }
  | { readonly do: 'plan-anew'; readonly fresh: FreshPlan }
  /** It restarted before its time; what was seen then, and the way on from there. */
  | { readonly do: 'slip'; readonly seen: Seen; readonly fresh: FreshPlan }
  | {
      readonly do: 'close';
      readonly claims: readonly SignOffClaim[];
      readonly rootProved: 'yes' | 'no' | 'not asked' | 'gone';
    }
  | { readonly do: 'again'; readonly again: 'yes' | 'no'; readonly note: string }
  | { readonly do: 'give-up' };

/** A partition, and its slot where the handset has two. */
export interface Partition {
  readonly partition: string;
  readonly slot: string | null;
}
