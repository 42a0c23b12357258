import 'server-only';
import type { JobView } from '@/contracts/job-view';
import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';
import type { Watch } from '@/core/ports';
import type { JobRow } from '../db/models';
import { insertJob, recentJobs, updateJob } from '../repositories/event-repository';
import { now } from './clock';
import { publish } from './message-bus';

export interface JobWatch extends Required<Watch> {
  /** While this is set stopping would do harm: what a person who wants to stop is told. */
  hold(why: string | null): void;
  /** Ends the work with this error; where it is held, as soon as that is over. */
  stop(error: EternoError): void;
}

interface RunningJob extends Pick<JobWatch, 'hold' | 'stop'> {
  readonly signal: AbortSignal;
  readonly held: () => string | null;
}

function runningJob(): RunningJob {
  const abort = new AbortController();
  let [held, wanted]: [string | null, EternoError | null] = [null, null];
  return {
    signal: abort.signal,
    held: () => held,
    hold(why) {
      held = why;
      if (why === null && wanted !== null) abort.abort(wanted);
    },
    stop(error) {
      wanted ??= error;
      if (held === null) abort.abort(wanted);
    },
  };
}

const held = globalThis as {
  eternoJobs?: Map<string, RunningJob>;
  eternoJobEnds?: Map<string, Promise<void>>;
};
const running = () => (held.eternoJobs ??= new Map());
const ends = () => (held.eternoJobEnds ??= new Map());
/** Progress is told at most this often. */
const TELL_MS = 100;

export function jobView(row: Readonly<JobRow>): JobView {
  const { id, kind, title, roundId, state, phase, doneBytes, totalBytes } = row;
  return {
    id,
    kind,
    title,
    roundId,
    state,
    phase,
    doneBytes,
    totalBytes,
    error: row.error ? (JSON.parse(row.error) as ErrorData) : null,
  };
}

/**
 * Starts work that outlives its request; its progress and end go over the message bus and into the jobs
 * table.
 */
export async function startJob(
  about: Pick<JobRow, 'kind' | 'title' | 'roundId'>,
  work: (watch: JobWatch) => Promise<void>,
): Promise<JobView> {
  const job = runningJob();
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
  running().set(row.id, job);
  publish({ type: 'job', job: jobView(row) });
  let told = 0;
  const change = (patch: Partial<JobRow>) => {
    row = { ...row, ...patch };
    publish({ type: 'job', job: jobView(row) });
  };
  const watch: JobWatch = {
    signal: job.signal,
    hold: job.hold,
    stop: job.stop,
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
      end = {
        state: error.code === 'cancelled' ? 'cancelled' : 'failed',
        error: JSON.stringify(error.toData()),
      };
    }
    running().delete(row.id);
    const patch = {
      ...end,
      phase: row.phase,
      doneBytes: row.doneBytes,
      totalBytes: row.totalBytes,
      endedAt: now(),
    };
    await updateJob(row.id, patch);
    change(patch);
    ends().delete(row.id);
  })();
  ends().set(row.id, ended);
  return jobView(row);
}

/** Resolves when a job is over, however it ended; at once for one that is. */
export const jobEnded = (id: string): Promise<void> => ends().get(id) ?? Promise.resolve();

/**
 * @throws {EternoError} `not-found` when no such job runs, `refused` with the reason while stopping would do
 * harm
 */
export function stopJob(id: string, error: EternoError): void {
  const job = running().get(id);
  if (!job) throw new EternoError('not-found', 'no such job is running');
  const why = job.held();
  if (why !== null) throw new EternoError('refused', why);
  job.stop(error);
}

/** On request of a person. */
export const cancelJob = (id: string): void =>
  stopJob(id, new EternoError('cancelled', 'Stopped on request.'));

export async function listJobs(): Promise<JobView[]> {
  return (await recentJobs(now() - 60_000)).map(jobView);
}
