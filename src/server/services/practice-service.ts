import 'server-only';
import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { JobView } from '@/contracts/job-view';
import type { DebriefView, OwnPractice, PracticeView, TroubleView } from '@/contracts/practice-view';
import { waysQuery } from '@/contracts/ways-query';
import { EternoError, throwIfAborted } from '@/core/errors';
import type { SlipCounts } from '@/core/planning/slips';
import type { Happened } from '@/core/practice/debrief';
import { debrief } from '@/core/practice/debrief';
import type { Scene } from '@/core/practice/scene';
import { CAUSE_OF_FAULT, checkScene, faultsOf, sceneTitle } from '@/core/practice/scene';
import type { Round, RoundStep } from '@/core/rounds/round';
import { currentStep } from '@/core/rounds/round';
import { STEP_KINDS } from '@/core/steps/step-table';
import { TRY_IT } from '@/core/try-it/works';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import { isHiddenFault } from '@/core/words/hidden-faults';
import { dataDir } from '../db/data-dir';
import { appendEvent, listEvents } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import { PLAIN_LIMITS } from '../rounds/opening';
import { aboutStep, roundContext } from '../rounds/round-context';
import { now } from './clock';
import { startJob, stopJob } from './jobs';
import { addSlips, slipsOfPractice, weighPractice } from './practice-slips';
import { pastCases } from './rescue-cases';
import { standInView } from './stand-in-service';

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

/** What this very Eterno is, where it is one of practice. */
export function ownPractice(): OwnPractice | null {
  const told = process.env.ETERNO_PRACTICE;
  if (told === undefined || told === '') return null;
  const { home, ...scene } = JSON.parse(told) as Scene & { readonly home: string };
  const checked = checkScene(scene);
  return { scene: checked, title: sceneTitle(checked), home };
}

/** @throws {EternoError} `refused` in practice itself: it has no practice of its own */
function needHome(): void {
  if (ownPractice())
    throw new EternoError('refused', 'This is practice already: go back to your own Eterno.');
}

const UP_MS = 200;
const LONGEST_MS = 180_000;

async function cameUp(child: ChildProcess, signal: AbortSignal): Promise<string> {
  for (let waited = 0; waited < LONGEST_MS; waited += UP_MS) {
    throwIfAborted(signal);
    if (child.exitCode !== null) throw new EternoError('io', 'The world of practice could not be made.');
    const told = await readFile(
      /*turbopackIgnore: true*/ join(folder(), 'run', 'practice.json'),
      'utf8',
    ).catch(() => null);
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

/**
 * Makes the world of a scene and starts it; the one that was open ends, and its slips are counted.
 * @param home the address of this Eterno, to come back to
 */
export async function openPractice(scene: Scene, home: string): Promise<JobView> {
  needHome();
  await endPractice();
  const { kind, work, seed, pace } = scene;
  const faults = kind === 'trouble' ? faultsOf(scene) : [];
  const env = { ...process.env, ETERNO_PRACTICE: JSON.stringify({ kind, work, seed, pace, home, faults }) };
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
export async function endPractice(): Promise<void> {
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

const KINDS: Readonly<Record<string, Happened['kind']>> = {
  'hint-asked': 'hint',
  'step-failed': 'failed',
  slip: 'slip',
  'stock-put-back': 'undone',
  'planned-anew': 'anew',
};

async function happenedIn(round: Round, steps: readonly RoundStep[]): Promise<Happened[]> {
  const events = await listEvents({ roundId: round.id });
  const holding = steps.find(({ planned }) => planned.holds)?.key ?? null;
  return events
    .flatMap(({ at, kind, data }): Happened[] => {
      const known = KINDS[kind];
      if (known === undefined) return [];
      const told = JSON.parse(data) as { key?: string; slip?: string; error?: { message?: string } };
      const what = told.error?.message ?? told.slip ?? '';
      return [{ at, kind: known, key: told.key ?? (known === 'slip' ? holding : null), what }];
    })
    .sort((one, two) => one.at - two.at);
}

/** A package of this world is in no other: the way is asked for without it. */
function againOf({ kind, lane, plan }: Round): Record<string, string> {
  const { install: _install, ...limits } = plan.limits ?? PLAIN_LIMITS;
  const { handset: _handset, ...wanted } = waysQuery('', kind, limits, null);
  return { ...wanted, lane };
}

async function debriefOf(round: Round): Promise<DebriefView> {
  const context = await roundContext(round.id);
  const { steps, handset } = context;
  const standIn = handset.profile === null ? null : await standInView(handset.profile);
  const done = steps.filter(({ state }) => state === 'done');
  const found = debrief({
    steps,
    happened: await happenedIn(round, steps),
    overridden: round.overrides.map(({ checkId }) => checkId),
    wipes: standIn?.state.data.wipes ?? 0,
    plannedWipes: done.filter(({ planned }) => planned.erases).length,
  });
  const { compared = [] } = round.plan;
  return {
    ...found,
    roundId: round.id,
    title: round.title,
    lane: compared.find(({ chosen }) => chosen)?.title ?? round.title,
    state: round.state,
    texts: steps.map((step) => {
      const { title, see } = STEP_KINDS[step.key].text(aboutStep(context, step));
      return { title, see };
    }),
    again: againOf(round),
    ways: compared.map(({ title, minutes, chosen }) => ({ title, minutes, chosen })),
  };
}

/** How each round of this world went; none in an Eterno of one's own. */
async function debriefs(): Promise<DebriefView[]> {
  if (ownPractice() === null) return [];
  const [handset] = await listHandsets();
  const rounds = handset ? await listRounds(handset.id) : [];
  const all: DebriefView[] = [];
  for (const round of rounds) if ((await stepsOf([round.id])).length > 0) all.push(await debriefOf(round));
  return all;
}

/** The fault that was put in when this world was made; null where nobody wrote it down. */
async function faultHere(): Promise<HiddenFaultId | null> {
  const path = join(/*turbopackIgnore: true*/ dataDir(), 'run', 'practice.json');
  const told = await readFile(/*turbopackIgnore: true*/ path, 'utf8').catch(() => '{}');
  const { fault } = JSON.parse(told) as { readonly fault?: unknown };
  return typeof fault === 'string' && isHiddenFault(fault) ? fault : null;
}

async function troubleHere(): Promise<TroubleView | null> {
  if (ownPractice()?.scene.kind !== 'trouble') return null;
  const [handset] = await listHandsets();
  if (!handset) return null;
  const closed = await pastCases(handset.id);
  const fault = closed.length === 0 ? null : await faultHere();
  const standIn = handset.profile === null ? null : await standInView(handset.profile);
  return {
    closed,
    was: fault && { fault, named: closed.some(({ cause }) => cause === CAUSE_OF_FAULT[fault]) },
    wipes: standIn?.state.data.wipes ?? 0,
  };
}

/** Where the way that was practised begins for each handset of one's own. */
async function sameWay(wanted: Readonly<Record<string, string>> | null): Promise<PracticeView['same']> {
  if (wanted === null || ownPractice() !== null) return null;
  return (await listHandsets()).map(({ id, name }) => ({
    name,
    href: `/rounds/new?${new URLSearchParams({ handset: id, ...wanted }).toString()}`,
  }));
}

/** @param wanted a way of practice, as a debrief gives it; null where none is asked for */
export async function practiceView(
  wanted: Readonly<Record<string, string>> | null = null,
): Promise<PracticeView> {
  const open = kept.eternoPractice ?? null;
  const isThere = open !== null && open.child.exitCode === null && open.child.signalCode === null;
  return {
    own: ownPractice(),
    works: TRY_IT.map(({ n, sentence }) => ({ n, sentence })),
    open:
      open !== null && isThere
        ? { scene: open.scene, title: sceneTitle(open.scene), url: open.url, jobId: open.jobId }
        : null,
    debriefs: await debriefs(),
    trouble: await troubleHere(),
    same: await sameWay(wanted),
    slips: await slipsOfPractice(),
  };
}
