import type { RootPartition } from '@/core/fit/root-partition';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import type { RootSpan, RootState } from '@/core/schedule/continuity';
import type { NextStep } from '@/core/schedule/what-comes-next';

export type FactSource = 'typed' | 'pasted' | 'link' | 'file';

export interface FactView {
  readonly key: string;
  readonly label: string;
  readonly value: string;
  readonly source: FactSource;
  readonly at: number;
}

export interface HandsetSummary {
  readonly id: string;
  readonly name: string;
  readonly model: string;
  readonly build: string | null;
  readonly root: RootState;
  readonly link: 'stand-in' | 'hand';
}

export interface BenchRow extends HandsetSummary {
  readonly spans: readonly RootSpan[];
  readonly builds: readonly { readonly buildId: string; readonly at: number }[];
  /** The newest build that is not installed, and since when it is out. */
  readonly waiting: { readonly buildId: string; readonly at: number } | null;
  readonly next: NextStep;
  readonly roundId: string | null;
  readonly wayBack: WayBack;
}

/** At this minute: back to stock on the running slot, with which image. */
export interface WayBack {
  readonly open: boolean;
  readonly sentence: string;
}

export interface SlotContentView {
  readonly slot: string;
  readonly partition: string;
  readonly sha256: string | null;
  readonly role: string | null;
  readonly build: string | null;
  readonly certainty: 'predicted' | 'read' | 'unknown';
  readonly reason: string;
  readonly at: number;
}

export interface HandsetDetail extends BenchRow {
  readonly facts: readonly FactView[];
  /** Typed facts, as the newest source of each tells them. */
  readonly known: HandsetFacts;
  readonly rootPartition: RootPartition;
  readonly slots: readonly SlotContentView[];
  readonly rounds: readonly {
    readonly id: string;
    readonly title: string;
    readonly state: string;
    readonly openedAt: number;
    readonly closedAt: number | null;
  }[];
  /** Last four characters; the whole serial never leaves the server. */
  readonly serialEnd: string | null;
}

/** What a pasted text would change, before it changes. */
export interface FactChange {
  readonly key: string;
  readonly label: string;
  readonly before: string | null;
  readonly after: string;
}
export interface FactPreview {
  readonly kind: 'properties' | 'bootloader' | 'nothing';
  readonly changes: readonly FactChange[];
  readonly same: number;
  readonly unread: readonly string[];
  /** Whether its serial is the one known; null where either is missing. */
  readonly serialSame: boolean | null;
}
