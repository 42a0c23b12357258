import type { Evidence } from '@/core/rounds/evidence';
import type { Again } from './round-view';
import type { StageTime } from '@/core/rounds/stage-time';
import type { Stage } from '@/core/steps/step-kind';

/** What the log goes out as, each with the word that the page offers it by. */
export const EXPORT_FORMS = {
  json: 'All of it, as JSON',
  csv: 'Steps, as CSV',
  markdown: 'To read, as Markdown',
  calendar: 'Rounds, as a calendar',
} as const;
/** Rounds that the log shows at first, and so many more each time. */
export const LOG_PAGE = 30;
export const LOG_STATES = ['open', 'closed', 'given-up'] as const;
export type ExportForm = keyof typeof EXPORT_FORMS;
export const EXPORT_FORM_NAMES = Object.keys(EXPORT_FORMS) as ExportForm[];

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
  readonly state: (typeof LOG_STATES)[number];
  readonly openedAt: number;
  readonly closedAt: number | null;
  readonly reached: 'yes' | 'no' | null;
  /** All its steps together. */
  readonly seconds: number;
  /** From its beginning to its end, root lost or broken. */
  readonly minutesWithoutRoot: number;
  readonly overrides: readonly { readonly check: string; readonly reason: string }[];
  /** Of the round as a whole. */
  readonly notes: readonly LogNote[];
  readonly again: Again | null;
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

/** Which rounds are looked at; every word of the text has to be in a round. */
export interface LogFilter {
  readonly text: string;
  readonly handset: string | null;
  readonly title: string | null;
  readonly state: LogRound['state'] | null;
}
export const EVERYTHING: LogFilter = { text: '', handset: null, title: null, state: null };

export interface LaneTime {
  readonly lane: string;
  readonly rounds: number;
  /** Of one round, on average. */
  readonly seconds: number;
  readonly minutesWithoutRoot: number;
}

/** The newest rounds that a filter leaves, and what all that it leaves come to together. */
export interface LogPage {
  readonly filter: LogFilter;
  readonly rounds: readonly LogRound[];
  /** All that the filter leaves. */
  readonly count: number;
  /** All there are. */
  readonly all: number;
  readonly seconds: number;
  /** Of the longest round there is. */
  readonly longestSeconds: number;
  readonly stages: readonly StageTime[];
  readonly lanes: readonly LaneTime[];
  readonly held: readonly HeldRoot[];
  /** To choose from. */
  readonly handsets: readonly string[];
  readonly titles: readonly string[];
}

/** What a log would bring in, or has. */
export interface LogImport {
  readonly applied: boolean;
  readonly tables: readonly {
    readonly name: string;
    readonly rows: number;
    readonly fresh: number;
    readonly differing: number;
  }[];
  readonly conflicts: readonly {
    readonly table: string;
    readonly key: string;
    readonly columns: readonly string[];
  }[];
  readonly moreConflicts: number;
}
