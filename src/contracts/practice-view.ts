import type { Debrief } from '@/core/practice/debrief';
import type { Scene } from '@/core/practice/scene';
import type { Occasion, Odds } from '@/core/practice/surprises';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import type { RepairId } from '@/core/words/rescue';
import type { SurpriseId } from '@/core/words/surprises';
import type { PastCase } from './rescue-view';
import type { SlipCounts } from '@/core/planning/slips';

/** What is said of this very Eterno where it is one of practice. */
export interface OwnPractice {
  readonly scene: Scene;
  readonly title: string;
  /** The Eterno that it was begun from. */
  readonly home: string;
  /** When it was begun, in UTC milliseconds. */
  readonly since: number;
}

export interface DebriefView extends Debrief {
  readonly roundId: string;
  readonly title: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  /** Titles of its steps, in their order; what each would have shown, in the words of its page. */
  readonly texts: readonly { readonly title: string; readonly see: string }[];
  /** What it was for, its limits and its lane, as the address of the ways holds them, but for the handset. */
  readonly again: Readonly<Record<string, string>>;
  /** The ways that were compared when it began. */
  readonly ways: readonly {
    readonly title: string;
    readonly minutes: readonly [number, number];
    readonly wipes: number;
    readonly chosen: boolean;
  }[];
}

/** How practice went so far. */
export interface SlipsOfPractice {
  readonly counts: SlipCounts;
  /** They weigh in the plans of your own handsets, a slip of practice as this share of a real one; null where not. */
  readonly weight: number | null;
}

/** A scene of trouble: what it was is said once its case is closed. */
export interface TroubleView {
  readonly closed: readonly PastCase[];
  readonly was: {
    readonly fault: HiddenFaultId;
    readonly named: boolean;
    /** The smallest repair that mends it on this handset; null where none is known. */
    readonly least: { readonly repair: RepairId; readonly minutes: number } | null;
  } | null;
  /** Times that everything on it was erased. */
  readonly wipes: number;
}

export interface PracticeView {
  /** Null in an Eterno of one's own. */
  readonly own: OwnPractice | null;
  readonly works: readonly {
    readonly n: number;
    readonly sentence: string;
    readonly slips: readonly Occasion[];
  }[];
  /** Of one's own, to be copied. */
  readonly handsets: readonly { readonly id: string; readonly name: string }[];
  /** By which a month is drawn: out of one's own record. */
  readonly odds: Odds;
  /** The world that was opened from here; null where none is. */
  readonly open: {
    readonly scene: Scene;
    readonly title: string;
    readonly url: string | null;
    readonly jobId: string;
  } | null;
  /** Where the work of this world begins. */
  readonly begin: string;
  readonly debriefs: readonly DebriefView[];
  /** Null where no trouble is practised here. */
  readonly trouble: TroubleView | null;
  /** What came over the handset of this world, and how many are still to come; null where none does. */
  readonly surprises: { readonly came: readonly SurpriseId[]; readonly left: number } | null;
  /** A way of practice that is to be gone with a handset of one's own: where it begins, for each of them. */
  readonly same: readonly { readonly name: string; readonly href: string }[] | null;
  readonly slips: SlipsOfPractice;
}
