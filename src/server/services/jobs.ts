import 'server-only';
import type { JobView } from '@/contracts/job-view';
import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';
import type { Watch } from '@/core/ports';
import type { JobRow } from '../db/models';
import { insertJob, recentJobs, updateJob } from '../repositories/event-repository';
import { now } from './clock';
import { publish } from './message-bus';

const held = globalThis as { eternoJobs?: Map<string, AbortController>; eternoJobEnds?: Map<string, Promise<void>> };
const running = () => (held.eternoJobs ??= new Map());
const ends = () => (held.eternoJobEnds ??= new Map());
/** Progress is told at most this often. */
const TELL_MS = 100;

export function jobView(row: Readonly<JobRow>): JobView {
  const { id, kind, title, roundId, state, phase, doneBytes, totalBytes } = row;
  return { id, kind, title, roundId, state, phase, doneBytes, totalBytes, error: row.error ? (JSON.parse(row.error) as ErrorData) : null };
}

/** Starts work that outlives its request; its progress and end go over the message bus and into the jobs table. */
export async function startJob(about: Pick<JobRow, 'kind' | 'title' | 'roundId'>, work: (watch: Required<Watch>) => Promise<void>): Promise<JobView> {
  const abort = new AbortController();
  let row = await insertJob({
    ...about,
    state: 'running',
    phase: 'start',
    doneBytes: 0,
    totalBytes: 0,
    error: null,
    startedAt: now(),
    endedAt: null,
  });
  running().set(row.id, abort);
  publish({ type: 'job', job: jobView(row) });
  let told = 0;
  const change = (patch: Partial<JobRow>) => {
    row = { ...row, ...patch };
    publish({ type: 'job', job: jobView(row) });
  };
  const watch: Required<Watch> = {
    signal: abort.signal,
    onProgress: ({ phase, doneBytes, totalBytes }) => {
      if (now() - told < TELL_MS && doneBytes < totalBytes && phase === row.phase) return;
      told = now();
      change({ phase, doneBytes, totalBytes });
    },
  };
  const ended = (async () => {
    let end: Partial<JobRow> = { state: 'done' };
    try {
      await work(watch);
    } catch (thrown) {
      const error = toEternoError(thrown);
      end = { state: error.code === 'cancelled' ? 'cancelled' : 'failed', error: JSON.stringify(error.toData()) };
    }
    running().delete(row.id);
    const patch = { ...end, phase: row.phase, doneBytes: row.doneBytes, totalBytes: row.totalBytes, endedAt: now() };
    await updateJob(row.id, patch);
    change(patch);
    ends().delete(row.id);
  })();
  ends().set(row.id, ended);
  return jobView(row);
}

/** Resolves when a job is over, however it ended; at once for one that is. */
export const jobEnded = (id: string): Promise<void> => ends().get(id) ?? Promise.resolve();

/** @throws {EternoError} `not-found` when no such job runs */
export function cancelJob(id: string): void {
  const abort = running().get(id);
  if (!abort) throw new EternoError('not-found', 'no such job is running');
  abort.abort();
}

export async function listJobs(): Promise<JobView[]> {
  return (await recentJobs(now() - 60_000)).map(jobView);
}
