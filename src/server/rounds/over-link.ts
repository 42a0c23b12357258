import 'server-only';
import type { JobView } from '@/contracts/job-view';
import { EternoError, toEternoError } from '@/core/errors';
import type { Override } from '@/core/gates/check';
import { seenLooping } from '@/core/rounds/answer';
import type { Command } from '@/core/rounds/command';
import type { Evidence } from '@/core/rounds/evidence';
import type { Round, RoundStep, Seen } from '@/core/rounds/round';
import { interlockOf } from '@/core/rounds/interlock';
import { currentStep, NOTHING_SEEN } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import { isStepKey, STEP_KINDS } from '@/core/steps/step-table';
import { refusalError } from '@/core/words/refusals';
import * as say from '@/core/words/step-evidence';
import { partitionName } from '@/core/words/step-evidence';
import type { KeptStep } from '../db/decode';
import { appendEvent, runningJobKinds } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { now } from '../services/clock';
import { jobEnded, listJobs, startJob, stopJob } from '../services/jobs';
import { holdHandset } from '../services/lease';
import { publish } from '../services/message-bus';
import { isLinked, linkOf } from '../services/link-service';
import { touchScreen } from '../services/stand-in-service';
import { carryOut } from './carry-out';
import { endsOutOfReach, executorOf, isByCable } from './executors/executors';
import { sendToMode } from './executors/run-modes';
import { writeSingle } from './executors/run-writes';
import { keepSystemFacts, startRunning, strong } from './executors/running';
import type { Executor, StepContext } from './executors/running';
import { openRound } from './open-rounds';
import { freshPlan, freshPlanIfAny, replan } from './opening';
import type { RoundContext } from './round-context';
import { aboutStep, roundContext, stockFor } from './round-context';
import { gatesOf } from './round-gates';
import { startsOver } from './sight';
import type { Written } from './step-writes';
import { mayHaveWritten } from './step-writes';

/*
 * Steps that Eterno does itself over the link, each as a job. Each refuses unless it is the step to do now.
 */

interface StepJob {
  readonly title: string;
  readonly work: Executor;
  readonly overrides?: readonly Override[];
  /** What its end comes to; by default the step is done. */
  readonly ended?: (evidence: readonly Evidence[], seen: Seen) => Command;
}

/**
 * The round as it stands, if its step to do now can begin.
 * @throws {EternoError} `conflict` when somebody was faster or it is over
 */
export async function atStep(roundId: string, version: number): Promise<StepContext> {
  const context = await roundContext(roundId);
  if (context.round.version !== version) throw refusalError({ because: 'changed-elsewhere' });
  const step = currentStep(context.steps);
  if (context.round.state !== 'open' || !step) throw refusalError({ because: 'another-step' });
  if (step.state === 'running') throw refusalError({ because: 'step-runs-already' });
  return { ...context, step };
}

/** Marks a step as running, then does its work as a job; the step ends done or failed with what was seen. */
export async function runStepJob(
  context: StepContext,
  version: number,
  { title, work, overrides = [], ended }: StepJob,
): Promise<JobView> {
  const { round, handset, step } = context;
  linkOf(handset);
  let lost = () => undefined as void;
  const giveBack = await holdHandset(handset.id, () => lost());
  const begun = carryOut(round.id, version, async () => ({
    do: 'begin',
    stepId: step.id,
    checks: await gatesOf(context, step),
    overrides,
  }));
  await begun.catch(async (thrown: unknown) => {
    await giveBack();
    throw thrown;
  });
  // what is done, not where the round stands: putting stock back runs on the step before it
  return startJob({ kind: step.key, title, roundId: round.id }, async (watch) => {
    lost = () =>
      watch.stop(
        new EternoError('conflict', 'Something else works on this handset now, so this step was stopped.'),
      );
    const running = startRunning(context, watch);
    try {
      // given back before the step is seen done: whoever sees that may go on at once
      const evidence = await work(running).finally(giveBack);
      await carryOut(round.id, null, async (after) =>
        ended
          ? ended(evidence, running.seen())
          : {
              do: 'finish',
              stepId: step.id,
              evidence,
              seen: running.seen(),
              fresh: DEEDS[step.key].plansAnew ? await freshPlanIfAny(after) : null,
            },
      );
    } catch (thrown) {
      const error = toEternoError(thrown);
      if (error.details?.['saw'] === 'looping') running.tell(seenLooping(step, error.message));
      const written = running.written.map(partitionName);
      await carryOut(round.id, null, () => ({
        do: 'fail',
        stepId: step.id,
        error: error.toData(),
        written,
        doubt: running.inDoubt(),
        seen: running.seen(),
      }));
      throw error;
    }
  });
}

/**
 * Does the step to do now over the link, or over the cable that a page of the browser holds.
 * @throws {EternoError} `conflict`, `refused` where a check holds it back or nothing is linked
 */
export async function runStep(roundId: string, version: number): Promise<JobView> {
  const context = await atStep(roundId, version);
  const { handset, steps, step } = context;
  const work = executorOf(steps, step);
  if (!work) throw new EternoError('conflict', 'this is not a step of the link');
  const title = titleOf(context, step);
  if (isLinked(handset)) return runStepJob(context, version, { title, work });
  linkOf(handset);
  if (!isByCable(step))
    throw new EternoError('refused', 'The browser’s cable does not reach where this happens: do it by hand.');
  return runStepJob(context, version, {
    title,
    work: async (running) => [strong(say.BY_CABLE), ...(await work(running))],
    ...(endsOutOfReach(step) && {
      ended: (evidence: readonly Evidence[], seen: Seen) => ({ do: 'sent', stepId: step.id, evidence, seen }),
    }),
  });
}

export const titleOf = (context: RoundContext, step: RoundStep) =>
  STEP_KINDS[step.key].text(aboutStep(context, step)).title;

/** Where a step is to end, and a command leads there: without its keys. */
export async function sendToStepMode(roundId: string, version: number): Promise<void> {
  const { handset, step } = await atStep(roundId, version);
  // a start is seen by the person, where no link sees it: the cable only sends it off
  if (DEEDS[step.key].starts === true && !isLinked(handset)) return linkOf(handset).restart('system');
  const mode = DEEDS[step.key].reachedByLink;
  if (mode === undefined) throw refusalError({ because: 'another-step' });
  await sendToMode(linkOf(handset), mode);
}

/**
 * Putting stock back is a rescue: what only speaks of the patched image, or was never read, does not hold it
 * up.
 */
const RESCUE_OVERRIDES: readonly Override[] = ['kit', 'battery', 'room', 'sources', 'root-sources'].map(
  (checkId) => ({
    checkId,
    reason: 'the stock image is put back',
  }),
);

/** The way back in the middle of a round: the stock image of the slot it is about, from the bootloader. */
export async function putStockBack(roundId: string, version: number): Promise<JobView> {
  const expected = await atStep(roundId, version);
  const until = expected.steps.indexOf(expected.step);
  const written = expected.steps
    .slice(0, until + 1)
    .findLast(({ planned }) => planned.writes && planned.mode !== 'system');
  const step = written ?? expected.step;
  const rescue: StepContext = { ...expected, step: { ...step, key: 'write-stock' } };
  if (!stockFor(rescue, step))
    throw new EternoError('refused', 'Not yet: the stock image is not in the vault.');
  return runStepJob(rescue, version, {
    title: 'Write the stock image back',
    work: writeSingle,
    overrides: RESCUE_OVERRIDES,
    ended: (evidence, seen) => ({ do: 'stand-before', stepId: step.id, evidence, seen }),
  });
}

/** A restart offer on the handset was refused: it is counted. */
export async function refuseOffer(roundId: string, version: number): Promise<void> {
  const { round, handset } = await roundContext(roundId);
  if (round.version !== version || round.state !== 'open')
    throw refusalError({ because: 'changed-elsewhere' });
  await countRefusal({ id: roundId, handsetId: handset.id, version });
}

/** The round itself does not change: a step may be running on it, or ending at this moment. */
async function countRefusal({
  id,
  handsetId,
  version,
}: Pick<Round, 'id' | 'handsetId' | 'version'>): Promise<void> {
  await appendEvent({ at: now(), handsetId, roundId: id, kind: 'offer-refused', data: { version: 1 } });
  publish({ type: 'round', roundId: id, version });
}

/** A finger on the stand-in's screen; an offer that it puts off is counted for the round that is open. */
export async function touchStandIn(profile: string, id: string): Promise<void> {
  await touchScreen(profile, id);
  if (id !== 'later') return;
  const handset = (await listHandsets()).find((one) => one.profile === profile);
  const open = handset && (await openRound(handset.id));
  if (open) await countRefusal(open);
}

/**
 * It restarted and no step asked for it: what runs now is read, or that nothing does; where restarts were held
 * back it is counted as a slip; and the way on is planned anew.
 */
export async function itRestarted(roundId: string, version: number): Promise<void> {
  const before = await roundContext(roundId);
  const { round, handset, steps } = before;
  if (round.version !== version || round.state !== 'open')
    throw refusalError({ because: 'changed-elsewhere' });
  if (steps.some(({ state }) => state === 'running')) throw refusalError({ because: 'step-runs' });
  const early = isHeld(steps);
  if (isLinked(handset) && (await startsOver(before))) {
    const root = { state: 'broken', why: say.LOOPS_SEEN } as const;
    // it is kept that it does not start, whatever way there is from there
    await carryOut(roundId, version, () => ({
      do: 'restarted',
      early,
      seen: { ...NOTHING_SEEN, root },
      fresh: null,
    }));
    return replan(roundId, (await roundContext(roundId)).round.version);
  }
  const root = isLinked(handset)
    ? await rootAfterRestart(handset)
    : ({ state: 'unknown', why: say.RESTARTED_AS_SAID } as const);
  await carryOut(roundId, version, async (context) => ({
    do: 'restarted',
    early,
    seen: { ...NOTHING_SEEN, root },
    fresh: await freshPlan(context),
  }));
}

/** Nothing may restart where the round stands. */
const isHeld = (steps: readonly RoundStep[]): boolean => {
  const current = steps.findIndex(({ state }) => state !== 'done');
  const held = steps.map(({ key, state, planned }) => ({ key, state, ...planned }));
  return interlockOf(held, current < 0 ? null : current, 0) !== null;
};

async function rootAfterRestart(handset: RoundContext['handset']): Promise<Seen['root']> {
  const link = linkOf(handset);
  if ((await link.listed())?.mode !== 'system')
    throw new EternoError(
      'link-lost',
      'Its system does not answer yet: let it come up first, with debugging on.',
    );
  const { facts, status } = await keepSystemFacts({ handset, link });
  return { state: status.rootCommand ? 'unproven' : 'lost', why: say.restartedEarly(facts.buildId) };
}

/**
 * While a start is waited for: the person sees that the handset starts over and over. The step ends with
 * their word.
 */
export async function saidToLoop(roundId: string): Promise<void> {
  const { steps } = await roundContext(roundId);
  const running = steps.find(({ state }) => state === 'running');
  const job = (await listJobs()).find((one) => one.roundId === roundId && one.state === 'running');
  if (!running || !job || DEEDS[running.key].starts !== true) throw refusalError({ because: 'another-step' });
  stopJob(job.id, new EternoError('handset-refused', say.LOOPS, { details: { saw: 'looping' } }));
  await jobEnded(job.id);
}

const uniqueWrites = (writes: readonly Written[]) => [
  ...new Map(writes.map((one) => [partitionName(one), one])).values(),
];

/**
 * At the server's start nothing can be running: what says so was interrupted, and a partition that may have
 * been written is unknown.
 */
export async function interruptStep({ id, roundId }: KeptStep): Promise<void> {
  await carryOut(roundId, null, async (context) => {
    const step = context.steps.find((one) => one.id === id)!;
    const keys = [step.key, ...(await runningJobKinds(roundId)).filter(isStepKey)];
    return {
      do: 'interrupt',
      stepId: id,
      doubt: uniqueWrites(keys.flatMap((key) => mayHaveWritten(context, { ...step, key }))),
    };
  });
}
