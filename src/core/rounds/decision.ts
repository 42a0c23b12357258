import type { StepKey } from '../steps/step-key';
import type { Refusal } from '../words/refusals';
import type { Evidence } from './evidence';
import type { AppSeen, BackupNote, KitTrial, NewStep, Round, RoundStep, SlotReport } from './round';

/*
 * What a command on a round comes to: everything that changes because of it, kept in one transaction or not
 * at all.
 */

/** A line of the log. */
export type RoundEvent =
  | {
      readonly kind: 'round-opened';
      readonly data: { readonly title: string; readonly handset: string; readonly lane: string };
    }
  | {
      readonly kind: 'round-closed';
      readonly data: {
        readonly title: string;
        readonly reached: boolean;
        /** Temporary changes that stay open, by their names. */
        readonly carriedOver: readonly string[];
      };
    }
  | { readonly kind: 'round-given-up'; readonly data: { readonly title: string } }
  | { readonly kind: 'planned-anew'; readonly data: { readonly lane: string; readonly goal: string } }
  | {
      readonly kind: 'step-done';
      readonly data: {
        readonly key: StepKey;
        readonly actor: string;
        readonly seconds: number;
        readonly evidence: readonly Evidence[];
      };
    }
  | {
      readonly kind: 'step-failed';
      readonly data: {
        readonly key: StepKey;
        readonly error: object;
        readonly evidence: readonly Evidence[];
      };
    }
  | {
      readonly kind: 'step-sent';
      readonly data: { readonly key: StepKey; readonly evidence: readonly Evidence[] };
    }
  | { readonly kind: 'step-interrupted'; readonly data: { readonly key: StepKey } }
  | { readonly kind: 'stock-put-back'; readonly data: { readonly evidence: readonly Evidence[] } }
  | { readonly kind: 'root'; readonly data: { readonly state: string; readonly why: string } }
  | { readonly kind: 'slip'; readonly data: { readonly slip: string } }
  | {
      readonly kind: 'same-way-again';
      readonly data: { readonly again: 'yes' | 'no'; readonly note: string };
    }
  | {
      readonly kind: 'module-batch';
      readonly data: { readonly batch: readonly string[]; readonly outcome: 'started' | 'looped' };
    }
  | { readonly kind: 'offer-refused'; readonly data: object };

/** How one module did on the build of a round. */
export interface ModuleTrial {
  readonly module: string;
  readonly outcome: 'worked' | 'looped';
  readonly note: string;
}

export type RoundChange = Partial<
  Pick<
    Round,
    'state' | 'closedAt' | 'reached' | 'overrides' | 'again' | 'againNote' | 'lane' | 'plan' | 'target'
  >
>;

/** A step of before, changed or not, or one that is new. */
export type DecidedStep = RoundStep | (Omit<RoundStep, 'id'> & { readonly id: null });

export interface Decision {
  /**
   * What changes of the round itself; its version counts on with every decision that changes it or a step.
   */
  readonly round: RoundChange;
  /** All steps afterwards, in order; null where none changes. A step that is missing here goes. */
  readonly steps: readonly DecidedStep[] | null;
  readonly events: readonly RoundEvent[];
  readonly slots: readonly SlotReport[];
  readonly putBacks: {
    readonly open: readonly { readonly kind: StepKey; readonly what: string }[];
    readonly close: readonly { readonly id: string; readonly how: string }[];
  };
  readonly trials: readonly KitTrial[];
  readonly moduleTrials: readonly ModuleTrial[];
  readonly backups: readonly BackupNote[];
  readonly apps: readonly AppSeen[];
  readonly secrets: readonly { readonly name: 'code'; readonly value: string }[];
}

export const isRefusal = (answer: Decision | Refusal): answer is Refusal => 'because' in answer;

export const NOTHING_DECIDED: Decision = {
  round: {},
  steps: null,
  events: [],
  slots: [],
  putBacks: { open: [], close: [] },
  trials: [],
  moduleTrials: [],
  backups: [],
  apps: [],
  secrets: [],
};

export const waiting = ({ key, planned }: NewStep): DecidedStep => ({
  id: null,
  key,
  planned,
  state: 'waiting',
  startedAt: null,
  endedAt: null,
  actor: null,
  evidence: [],
});
