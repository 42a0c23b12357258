import type { ErrorData } from '@/core/errors';

export interface JobView {
  readonly id: string;
  readonly kind: string;
  readonly title: string;
  readonly roundId: string | null;
  readonly state: 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  readonly phase: string;
  readonly doneBytes: number;
  readonly totalBytes: number;
  readonly error: ErrorData | null;
}

/** What goes over `/api/events`: a job's progress, or word that a round changed. */
export type ServerMessage =
  | { readonly type: 'job'; readonly job: JobView }
  /** What a maker offers has changed. */
  | { readonly type: 'builds' }
  | { readonly type: 'round'; readonly roundId: string; readonly version: number };
