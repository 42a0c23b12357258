import type { ScreenModel } from '@/core/handset/screen';
import type { HandsetState } from '@/core/handset/state';
import type { SurpriseId } from '@/core/words/surprises';

export interface StandInView {
  readonly profile: {
    readonly id: string;
    readonly product: string;
    readonly model: string;
    readonly serial: string;
    readonly rootPartition: string;
    readonly slotCount: number;
    /** Its maker mails a code for it. */
    readonly mails: boolean;
  };
  readonly state: HandsetState;
  readonly screen: ScreenModel;
  /** Its owner's inbox, as far as the handset is its business. */
  readonly mail: readonly {
    readonly from: string;
    readonly folder: 'inbox' | 'junk';
    readonly subject: string;
    readonly text: string;
  }[];
  /** How long was waited for it so far, in milliseconds of its own time. */
  readonly waitedMs: number;
  /** Surprises that have come over it, in their order. */
  readonly came: readonly SurpriseId[];
}

/** `null` profile: no stand-in runs. */
export type StandInMessage =
  { readonly profile: string; readonly view: StandInView } | { readonly profile: null; readonly view: null };

/** What the judgement of a write says to an image that was forced on a stand-in, each in one sentence. */
export interface ForcedAnswer {
  readonly wrong: readonly string[];
}
