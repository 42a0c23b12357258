import 'server-only';
import type { RootState } from '@/core/schedule/continuity';
import type { ErrorCode } from '@/core/errors';
import type { TrueState } from '@/core/practice/true-state';
import type { CauseId, CheckId, RepairId, RungId, SymptomId } from '@/core/words/rescue';
import type { FileSource } from '@/core/table/roll-call';
import type { EventRow } from './models';

/**
 * What the log's lines say, by kind, where something is worked out from them (`row-shapes.ts` holds each to
 * it).
 */
export interface EventData {
  readonly root: { readonly state: RootState };
  readonly slip: { readonly slip: string };
  readonly 'step-failed': { readonly key?: string; readonly error?: { readonly code?: ErrorCode } };
  readonly 'module-batch': { readonly batch: readonly string[]; readonly outcome: 'started' | 'looped' };
  readonly 'vault-checked': {
    readonly checked: number;
    readonly bytes: number;
    readonly damaged: readonly string[];
    readonly missing: readonly string[];
    readonly strays: number;
  };
  /** What the page was made of, as one word; pages of before do not say it. */
  readonly 'rescue-page': { readonly signature?: string };
  /** A case of trouble that was closed: what it was, where something brought it back. */
  readonly 'rescue-closed': {
    readonly cause: CauseId | null;
    /** What it showed, what brought it back, since when it was open; what cured its line. Old cases say less. */
    readonly symptoms?: readonly SymptomId[];
    readonly repair?: RepairId | null;
    readonly openedAt?: number | null;
    readonly rung?: RungId | null;
    readonly cable?: string | null;
    readonly host?: string | null;
    /** What was asked, and what was done in vain before. */
    readonly answers?: readonly { readonly check: CheckId }[];
    readonly tried?: readonly RepairId[];
  };
  /** Of practice: what the stand-in truly was when a step had ended. */
  readonly 'true-state': TrueState & { readonly key: string; readonly done: boolean };
  readonly 'file-hashed': { readonly fileName: string; readonly sha256: string };
  readonly 'file-source': {
    readonly fileName: string;
    readonly sizeBytes: number;
    readonly source: FileSource;
  };
}
export type EventKind = keyof EventData;

/** A line of the log of a kind that is worked with. */
export interface KeptEvent<K extends EventKind> {
  readonly at: number;
  readonly handsetId: string | null;
  readonly roundId: string | null;
  readonly data: EventData[K];
}

export const decodeEvent = <K extends EventKind>({
  at,
  handsetId,
  roundId,
  data,
}: Readonly<EventRow>): KeptEvent<K> => ({
  at,
  handsetId,
  roundId,
  data: JSON.parse(data) as EventData[K],
});
