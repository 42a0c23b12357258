import type { CaseCounts } from '@/core/rescue/belief';
import type { RescueRecord } from '@/core/rescue/record';
import type { Works } from '@/core/rescue/repairs';
import type { RepairId } from '@/core/words/rescue';

/** A repair that can't be done here as things are, and what it wants. */
export interface BarredRepair {
  readonly repair: RepairId;
  readonly why: string;
}

/** A handset in trouble, as far as it is known: its record, and what mends what on it. */
export interface RescueCase {
  /** Null for one that was never here. */
  readonly handset: { readonly id: string; readonly name: string } | null;
  /** What its class, or its own facts, are called. */
  readonly about: string;
  readonly record: RescueRecord;
  /** By repair the causes that it mends, each played on the machine. */
  readonly works: Works;
  readonly barred: readonly BarredRepair[];
  /** The round that is open for it. */
  readonly roundId: string | null;
}

export interface RescueView {
  readonly handsets: readonly { readonly id: string; readonly name: string; readonly broken: boolean }[];
  readonly classes: readonly { readonly id: string; readonly title: string }[];
  readonly chosen: RescueCase | null;
  /** How often each cause was behind it in cases that were closed here. */
  readonly counts: CaseCounts;
}
