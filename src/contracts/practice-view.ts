import type { Debrief } from '@/core/practice/debrief';
import type { Scene } from '@/core/practice/scene';
import type { SlipCounts } from '@/core/planning/slips';

/** What is said of this very Eterno where it is one of practice. */
export interface OwnPractice {
  readonly scene: Scene;
  readonly title: string;
  /** The Eterno that it was begun from. */
  readonly home: string;
}

export interface DebriefView extends Debrief {
  readonly roundId: string;
  readonly title: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  /** Titles of its steps, in their order; what each would have shown, in the words of its page. */
  readonly texts: readonly { readonly title: string; readonly see: string }[];
  /** The ways that were compared when it began. */
  readonly ways: readonly {
    readonly title: string;
    readonly minutes: readonly [number, number];
    readonly chosen: boolean;
  }[];
}

/** How practice went so far. */
export interface SlipsOfPractice {
  readonly counts: SlipCounts;
  /** They weigh in the plans of your own handsets, a slip of practice as this share of a real one; null where not. */
  readonly weight: number | null;
}

export interface PracticeView {
  /** Null in an Eterno of one's own. */
  readonly own: OwnPractice | null;
  readonly works: readonly { readonly n: number; readonly sentence: string }[];
  /** The world that was opened from here; null where none is. */
  readonly open: {
    readonly scene: Scene;
    readonly title: string;
    readonly url: string | null;
    readonly jobId: string;
  } | null;
  readonly debriefs: readonly DebriefView[];
  readonly slips: SlipsOfPractice;
}
