import type { CaseCounts } from '@/core/rescue/belief';
import type { Cure } from '@/core/rescue/line-ladder';
import type { RescueRecord } from '@/core/rescue/record';
import type { Works } from '@/core/rescue/repairs';
import type { CauseId, CheckId, RepairId, RungId, SymptomId } from '@/core/words/rescue';

/** A repair that can't be done here as things are, and what it wants. */
export interface BarredRepair {
  readonly repair: RepairId;
  readonly why: string;
}

/** Who says an answer. */
export type AnsweredBy = 'you' | 'paste' | 'link';
export interface KeptAnswer {
  readonly check: CheckId;
  /** Null where it can't be done. */
  readonly answer: string | null;
  readonly by: AnsweredBy;
  /** The line that says it; null where the person says it. */
  readonly saw: string | null;
}

/** What is known of one case so far. */
export interface CaseState {
  readonly symptoms: readonly SymptomId[];
  readonly answers: readonly KeptAnswer[];
  readonly tried: readonly RepairId[];
  /** Rungs of the line's own ladder that changed nothing. */
  readonly rungs: readonly RungId[];
  /** What the person calls the cable and the computer; null where they did not say. */
  readonly cable: string | null;
  readonly host: string | null;
}
export const NEW_CASE: CaseState = {
  symptoms: [],
  answers: [],
  tried: [],
  rungs: [],
  cable: null,
  host: null,
};

export interface KeptCase extends CaseState {
  /** UTC milliseconds. */
  readonly openedAt: number;
  /** The round that does its repair, and which repair that is. */
  readonly round: { readonly id: string; readonly repair: RepairId } | null;
}

/** What was to blame, to be marked for the next plan. */
export type RescueMark =
  | { readonly kind: 'module'; readonly module: string }
  | { readonly kind: 'kit'; readonly item: string }
  | { readonly kind: 'way-down'; readonly from: string; readonly to: string };

/** How it is known that the handset is back. */
export type BackBy = 'link' | 'round' | 'you';

/** A case that was closed. */
export interface PastCase {
  /** UTC milliseconds. */
  readonly at: number;
  /** From its first word to its end; null where it was never kept open. */
  readonly minutes: number | null;
  readonly symptoms: readonly SymptomId[];
  readonly helped: { readonly repair: RepairId | null; readonly rung: RungId | null };
  readonly cause: CauseId | null;
  /** How many questions were answered; null in old cases. */
  readonly asked: number | null;
  /** What was done in vain, in its order. */
  readonly tried: readonly RepairId[];
}

/** A handset in trouble, as far as it is known: its record, and what mends what on it. */
export interface RescueCase {
  /** Null for one that was never here. */
  readonly handset: { readonly id: string; readonly name: string; readonly link: boolean } | null;
  /** What its class, or its own facts, are called. */
  readonly about: string;
  readonly record: RescueRecord;
  /** By repair the causes that it mends, each played on the machine. */
  readonly works: Works;
  readonly barred: readonly BarredRepair[];
  /** By repair the files that are here for it, by name. */
  readonly atHand: Readonly<Partial<Record<RepairId, readonly string[]>>>;
  /** The round that is open for it. */
  readonly roundId: string | null;
  /** The case that is open; null where none is. */
  readonly kept: KeptCase | null;
  /** Cases of before, the newest first. */
  readonly past: readonly PastCase[];
  /** Its round has come to its end, and the system was seen to start in it. */
  readonly backByRound: boolean;
}

export interface RescueView {
  readonly handsets: readonly {
    readonly id: string;
    readonly name: string;
    readonly broken: boolean;
    readonly open: boolean;
  }[];
  readonly classes: readonly { readonly id: string; readonly title: string; readonly open: boolean }[];
  readonly chosen: RescueCase | null;
  /** How often each cause was behind it in cases that were closed here. */
  readonly counts: CaseCounts;
  /** What cured a line in closed cases. */
  readonly cures: readonly Cure[];
}
