import type { Evidence } from '@/core/rounds/evidence';
import type { Stage } from '@/core/rounds/step-kind';

export const EXPORT_FORMS = ['json', 'csv', 'markdown', 'calendar'] as const;
export type ExportForm = (typeof EXPORT_FORMS)[number];

export interface LogNote {
  readonly text: string;
  /** SHA-256 of a picture; null where there is none. */
  readonly picture: string | null;
  readonly at: number;
}

export interface LogStep {
  readonly id: string;
  readonly key: string;
  readonly title: string;
  readonly stage: Stage;
  readonly state: string;
  readonly actor: string | null;
  readonly startedAt: number | null;
  readonly seconds: number | null;
  /** As the plan of the round had it; of rounds without one, what is normal. */
  readonly plannedSeconds: number;
  readonly evidence: readonly Evidence[];
  readonly notes: readonly LogNote[];
}

export interface LogRound {
  readonly id: string;
  readonly kind: string;
  readonly title: string;
  readonly handset: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  readonly openedAt: number;
  readonly closedAt: number | null;
  /** All its steps together. */
  readonly seconds: number;
  /** From its beginning to its end, root lost or broken. */
  readonly minutesWithoutRoot: number;
  readonly overrides: readonly { readonly check: string; readonly reason: string }[];
  /** Of the round as a whole. */
  readonly notes: readonly LogNote[];
  readonly steps: readonly LogStep[];
}

/** A handset's share of days with root, and its longest run. */
export interface HeldRoot {
  readonly handset: string;
  readonly share: number | null;
  readonly longestMs: number;
  readonly minutesWithoutRoot: number;
}

export interface LogView {
  readonly rounds: readonly LogRound[];
  readonly held: readonly HeldRoot[];
}

/** What a log would bring in, or has. */
export interface LogImport {
  readonly applied: boolean;
  readonly tables: readonly { readonly name: string; readonly rows: number; readonly fresh: number; readonly differing: number }[];
  readonly conflicts: readonly { readonly table: string; readonly key: string; readonly columns: readonly string[] }[];
  readonly moreConflicts: number;
}
