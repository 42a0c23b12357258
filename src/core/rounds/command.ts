import type { ErrorData } from '../errors';
import type { Check, Override } from '../gates/check';
import type { BringBack } from '../modules/bring-back';
import type { Observation } from '../observe/expectation';
import type { GoalId } from '../planning/context';
import type { RootState } from '../schedule/continuity';
import type { BackupPart } from '../words/backups';
import type { OutcomeId } from '../words/outcomes';
import type { Evidence } from './evidence';
import type { AppSeen, BackupNote, KeptPlan, NewStep, Round, RoundStep, Seen, SlotReport } from './round';
import type { SignOffClaim } from './sign-off';

/* What can be asked of a round, and what the answer is made from. */

/** What a command is decided from, read together. */
export interface Moment {
  readonly round: Round;
  readonly steps: readonly RoundStep[];
  /** Temporary changes of the handset that are open. */
  readonly putBacks: readonly { readonly id: string; readonly kind: string; readonly what: string }[];
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
  /** What runs is asked once more first, although the round has asked it before. */
  readonly findOut: boolean;
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
  /** What a step sends has gone; how it went on from there only the person sees, and says. */
  | {
      readonly do: 'sent';
      readonly stepId: string;
      readonly evidence: readonly Evidence[];
      readonly seen: Seen;
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
  | ({ readonly do: 'answer' } & Answered)
  | { readonly do: 'code'; readonly code: string }
  | {
      readonly do: 'confirm';
      readonly checks: readonly Check[] | null;
      readonly overrides: readonly Override[];
    }
  | {
      readonly do: 'back-up';
      readonly what: BackupNote['what'] | 'none';
      readonly note: string;
      readonly parts: readonly BackupPart[];
    }
  | { readonly do: 'protect'; readonly rescuePage: boolean; readonly reason: string }
  | {
      readonly do: 'look-around';
      readonly answers: Readonly<Record<Looked, LookedAnswer>>;
      readonly note: string;
      readonly apps: readonly AppSeen[];
    }
  | {
      readonly do: 'batch';
      readonly batch: readonly string[];
      readonly outcome: 'started' | 'looped';
      readonly before: BringBack;
      readonly after: BringBack;
      readonly stays: readonly string[];
      readonly byHand: boolean;
    }
  /** Root was there after one more restart too. */
  | {
      readonly do: 'prove-again';
      readonly stepId: string;
      readonly evidence: readonly Evidence[];
      readonly seen: Seen;
    }
  | { readonly do: 'settle' }
  | { readonly do: 'plan-anew'; readonly fresh: FreshPlan }
  /**
   * It restarted and no step asked for it: early where restarts were held. What was seen then, and the way on
   * from there where it is planned already.
   */
  | {
      readonly do: 'restarted';
      readonly early: boolean;
      readonly seen: Seen;
      readonly fresh: FreshPlan | null;
    }
  | {
      readonly do: 'close';
      readonly claims: readonly SignOffClaim[];
      /** The person closes it although its goal is not reached. */
      readonly notReached: boolean;
      /** Open temporary changes that the person takes along, by their names. */
      readonly carryOver: readonly string[];
    }
  | { readonly do: 'again'; readonly again: 'yes' | 'no'; readonly note: string }
  | { readonly do: 'give-up' };

/** What only the person can see after a round. */
export type Looked = 'data' | 'calls' | 'payments';
export const LOOKED_ANSWERS = ['works', 'does not work', 'not used here'] as const;
export type LookedAnswer = (typeof LOOKED_ANSWERS)[number];

/** What a person says of a step that they did. */
export type Answer =
  | { readonly how: 'as-described'; readonly note: string }
  | { readonly how: 'otherwise'; readonly outcome: OutcomeId; readonly note: string }
  | { readonly how: 'cannot-tell'; readonly note: string };

/** What was shown, held against what its step expects. */
export interface ShownAt extends Observation {
  /** The shell that is root was another user before. */
  readonly refusedBefore?: boolean;
}

/** An answer with what it is judged by. */
export interface Answered {
  readonly answer: Answer;
  /** What was shown, held against what the step expects; null where nothing was, or nothing can be. */
  readonly shown: ShownAt | null;
  readonly checks: readonly Check[];
  /** What lies on the partitions of the step if it went as described. */
  readonly slots: readonly SlotReport[];
  /** What it may have written. */
  readonly doubt: readonly Partition[];
  /** The build that runs is known from before, at the step that reads it. */
  readonly buildKnown: boolean;
  readonly fresh: FreshPlan | null;
}

/** A partition, and its slot where the handset has two. */
export interface Partition {
  readonly partition: string;
  readonly slot: string | null;
}
