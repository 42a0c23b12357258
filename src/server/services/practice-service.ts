import 'server-only';
import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { JobView } from '@/contracts/job-view';
import type { OwnPractice, PracticeView } from '@/contracts/practice-view';
import { waysQuery } from '@/contracts/ways-query';
import { EternoError, throwIfAborted } from '@/core/errors';
import type { SlipCounts } from '@/core/planning/slips';
import type { Scene } from '@/core/practice/scene';
import { faultsOf, sceneTitle, surprisesOf } from '@/core/practice/scene';
import { USUAL_SLIPS } from '@/core/practice/surprises';
import { currentStep } from '@/core/rounds/round';
import { TRY_IT } from '@/core/try-it/works';
import { dataDir } from '../db/data-dir';
import { appendEvent } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { PLAIN_LIMITS } from '../rounds/opening';
import { roundContext } from '../rounds/round-context';
import { now } from './clock';
import { startJob, stopJob } from './jobs';
import { oneAtATime } from './one-at-a-time';
import { needOwnScene } from './own-scene';
import { debriefs, surprisesHere, troubleHere } from './practice-debrief';
import { oddsHere } from './practice-odds';
import { needHome, ownPractice } from './practice-self';
import { addSlips, slipsOfPractice, weighPractice } from './practice-slips';

/*
 * Practice: an Eterno with a store, a vault and a stand-in of its own, in processes of their own. Nothing that is
 * done there can reach what is kept here, but the counts of its slips (docs/architecture.md, "Practice").
 */

interface Open {
  readonly scene: Scene;
  readonly child: ChildProcess;
  readonly jobId: string;
  url: string | null;
}
const kept = globalThis as { eternoPractice?: Open | null };
/** One world at a time, in a folder that is made anew for each. */
const folder = () => join(/*turbopackIgnore: true*/ dataDir(), 'practice');

const UP_MS = 200;
/** Until then it can be stopped at any time. */
const LONGEST_MS = 600_000;

async function cameUp(child: ChildProcess, signal: AbortSignal): Promise<string> {
  for (let waited = 0; waited < LONGEST_MS; waited += UP_MS) {
    throwIfAborted(signal);
    if (child.exitCode !== null) throw new EternoError('io', 'The world of practice could not be made.');
    const told = await readFile(
      /*turbopackIgnore: true*/ join(folder(), 'run', 'practice.json'),
      'utf8',
    ).catch(() => null);
    // written whole by the child, or not there
    const run = told === null ? null : (JSON.parse(told) as { readonly pid: number; readonly url: string });
    if (run?.pid === child.pid) return run!.url;
    await new Promise((resolve) => setTimeout(resolve, UP_MS));
  }
  throw new EternoError('io', 'The world of practice did not come up.');
}

const gone = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => child.once('exit', () => resolve()));

export interface ToOpen {
  readonly scene: Scene;
  /** The handset of one's own that is copied; null where the scene is none of those. */
  readonly handsetId: string | null;
  /** The address of this Eterno, to come back to. */
  readonly home: string;
}

/**
 * Makes the world of a scene and starts it; the one that was open ends, and its slips are counted.
 * @throws {EternoError} `refused` in practice itself, and where too little is known of the handset; `not-found`
 */
export const openPractice = (asked: ToOpen): Promise<JobView> =>
  oneAtATime('practice', () => openWorld(asked));

async function openWorld({ scene, handsetId, home }: ToOpen): Promise<JobView> {
  needHome();
  const own = scene.work === null ? { handsetId: await needOwnScene(handsetId), from: dataDir() } : null;
  await endWorld();
  const told = {
    ...scene,
    home,
    // a world of the demo has its own time, and nothing of before
    since: own === null ? 0 : now(),
    faults: scene.kind === 'trouble' ? faultsOf(scene) : [],
    surprises: surprisesOf(scene),
    own,
  };
  const env = { ...process.env, ETERNO_PRACTICE: JSON.stringify(told) };
  // its end is this process's too, however that ends: the pipe closes
  const child = spawn(process.execPath, ['scripts/practice.mjs', folder()], {
    stdio: ['pipe', 'ignore', 'inherit'],
    env,
  });
  const title = `Make a world of practice: ${sceneTitle(scene).replace(/\.$/, '')}`;
  const job = await startJob({ kind: 'practice', title, roundId: null }, async (watch) => {
    watch.onProgress({ phase: 'make its world', doneBytes: 0, totalBytes: 1 });
    try {
      const url = await cameUp(child, watch.signal);
      if (kept.eternoPractice?.child === child) kept.eternoPractice.url = url;
    } catch (thrown) {
      child.kill('SIGTERM');
      if (kept.eternoPractice?.child === child) kept.eternoPractice = null;
      throw thrown;
    }
  });
  kept.eternoPractice = { scene, child, jobId: job.id, url: null };
  return job;
}

/** Ends the world that is open; its slips are counted, and nothing else of it is kept. */
export const endPractice = (): Promise<void> => oneAtATime('practice', endWorld);

async function endWorld(): Promise<void> {
  const open = kept.eternoPractice ?? null;
  kept.eternoPractice = null;
  if (open === null) return;
  if (open.url === null) stopJobIfRuns(open.jobId);
  else await countSlips(open.url);
  open.child.kill('SIGTERM');
  await gone(open.child);
}
function stopJobIfRuns(id: string): void {
  try {
    stopJob(id, new EternoError('cancelled', 'Stopped on request.'));
  } catch {
    // it was over
  }
}

async function countSlips(url: string): Promise<void> {
  const told = await fetch(`${url}/api/practice/slips`)
    .then(async (response) => (response.ok ? ((await response.json()) as SlipCounts) : null))
    .catch(() => null);
  if (told !== null) await addSlips(told);
}

/** Whether the slips of practice weigh in the plans of one's own handsets. */
export async function weighSlips(on: boolean): Promise<void> {
  needHome();
  await weighPractice(on);
}

/** How the step to do now is done was asked for. @throws {EternoError} `refused` outside practice */
export async function askHint(roundId: string): Promise<void> {
  if (!ownPractice()) throw new EternoError('refused', 'Hints are asked for in practice only.');
  const { steps, handset } = await roundContext(roundId);
  const step = currentStep(steps);
  if (step === null) return;
  const data = { version: 1, key: step.key };
  await appendEvent({ at: now(), handsetId: handset.id, roundId, kind: 'hint-asked', data });
}

const onBench = async () => (await listHandsets()).filter(({ putAwayAt }) => putAwayAt === null);

/** Where the way that was practised begins for each handset of one's own. */
async function sameWay(wanted: Readonly<Record<string, string>> | null): Promise<PracticeView['same']> {
  if (wanted === null || ownPractice() !== null) return null;
  return (await onBench()).map(({ id, name }) => ({
    name,
    href: `/rounds/new?${new URLSearchParams({ handset: id, ...wanted }).toString()}`,
  }));
}

/** Where the work of this world begins. */
async function beginHere({ scene: { kind, work } }: OwnPractice): Promise<string> {
  if (kind === 'trouble') return '/rescue';
  if (work !== null) return '/try';
  const [handset] = await listHandsets();
  if (!handset) return '/';
  return kind === 'month'
    ? `/rounds/new?${new URLSearchParams(waysQuery(handset.id, 'monthly update', PLAIN_LIMITS, null)).toString()}`
    : `/handsets/${handset.id}`;
}

/** @param wanted a way of practice, as a debrief gives it; null where none is asked for */
export async function practiceView(
  wanted: Readonly<Record<string, string>> | null = null,
): Promise<PracticeView> {
  const own = ownPractice();
  const open = kept.eternoPractice ?? null;
  const isThere = open !== null && open.child.exitCode === null && open.child.signalCode === null;
  const handsets = own ? [] : await onBench();
  return {
    own,
    works: TRY_IT.map(({ n, sentence }) => ({ n, sentence, slips: USUAL_SLIPS[n] ?? [] })),
    handsets: handsets.map(({ id, name }) => ({ id, name })),
    odds: own ? {} : await oddsHere(),
    open:
      open !== null && isThere
        ? { scene: open.scene, title: sceneTitle(open.scene), url: open.url, jobId: open.jobId }
        : null,
    begin: own ? await beginHere(own) : '/',
    debriefs: own ? await debriefs(own) : [],
    trouble: own && (await troubleHere(own)),
    surprises: own && (await surprisesHere(own)),
    same: await sameWay(wanted),
    slips: await slipsOfPractice(),
  };
}
