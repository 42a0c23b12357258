import 'server-only';
import type { JobView } from '@/contracts/job-view';
import { EternoError, toEternoError } from '@/core/errors';
import type { Override } from '@/core/gates/check';
import type { Evidence } from '@/core/rounds/evidence';
import type { StepKey } from '@/core/steps/step-kind';
import type { RoundRow, StepRow } from '../db/models';
import { appendEvent, runningJobKinds } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { changeRound, findRound } from '../repositories/round-repository';
import { now } from './clock';
import { startJob } from './jobs';
import { holdHandset } from './lease';
import { publish } from './message-bus';
import { tellRoot } from './root-history';
import type { RoundContext, RoundStepRow } from './round-context';
import { aboutStep, roundContext, stockFor } from './round-context';
import { openRound } from './open-rounds';
import { expectStep, finishStep, needGates, overridesOf, replan } from './round-service';
import { EXECUTORS } from './round-steps/executors';
import { sendToMode } from './round-steps/run-modes';
import { writeSingle } from './round-steps/run-writes';
import { keepSystemFacts, named, startRunning, strong } from './round-steps/running';
import type { Executor, StepContext } from './round-steps/running';
import { isStepKey, STEP_KINDS } from '@/core/steps/step-table';
import { tellSlot } from './slot-service';
import type { Written } from './step-writes';
import { mayHaveWritten } from './step-writes';
import { profileOf, standInView, touchScreen, withSystem } from './stand-in-service';

/* Steps that Eterno does itself over the link, each as a job. Each refuses unless it is the step to do now. */

interface StepJob {
  readonly title: string;
  readonly work: Executor;
  /** How the round goes on; by default the step is done. */
  readonly finished?: (version: number, evidence: readonly Evidence[]) => Promise<void>;
}

/** Marks a step as running, then does its work as a job; the step ends done or failed with what was seen. */
export async function runStepJob(context: StepContext, version: number, { title, work, finished }: StepJob): Promise<JobView> {
  const { round, handset } = context;
  const step = { ...context.step, startedAt: context.step.startedAt ?? now() };
  profileOf(handset);
  const change = async (at: number, patch: Partial<StepRow>) => {
    await changeRound(round.id, at, {}, [{ id: step.id, change: patch }]);
    publish({ type: 'round', roundId: round.id, version: at + 1 });
  };
  let lost = () => undefined as void;
  const giveBack = await holdHandset(handset.id, () => lost());
  await change(version, { state: 'running', startedAt: step.startedAt, actor: 'link' }).catch(async (thrown: unknown) => {
    await giveBack();
    throw thrown;
  });
  // what is done, not where the round stands: putting stock back runs on the step before it
  return startJob({ kind: step.stepKey, title, roundId: round.id }, async (watch) => {
    lost = () => watch.stop(new EternoError('conflict', 'Something else works on this handset now, so this step was stopped.'));
    const running = startRunning({ ...context, step }, watch);
    try {
      // given back before the step is seen done: whoever sees that may go on at once
      const evidence = await work(running).finally(giveBack);
      await (finished ? finished(version + 1, evidence) : finishStep({ ...context, step }, version + 1, 'link', evidence));
    } catch (thrown) {
      const error = toEternoError(thrown);
      for (const { partition, slot } of running.inDoubt.values())
        await tellSlot({ handsetId: handset.id, slot, partition, sha256: null, certainty: 'unknown', reason: 'a write was cut short' });
      const doubt = [...running.inDoubt.values()].map(({ partition, slot }) => named(partition, slot));
      const evidence = [
        ...(running.written.length > 0 ? [strong(`written before it went wrong: ${running.written.join(', ')}`)] : []),
        doubt.length > 0
          ? strong(`the write was cut short, ${doubt.join(', ')} is unknown until it is written again: ${error.message}`)
          : strong(step.planned.writes && running.written.length === 0 ? `nothing was written: ${error.message}` : error.message),
      ];
      await change(version + 1, { state: 'failed', evidence: JSON.stringify(evidence) });
      await appendEvent({
        at: now(),
        handsetId: handset.id,
        roundId: round.id,
        kind: 'step-failed',
        data: { version: 1, key: step.key, error: error.toData(), evidence },
      });
      throw error;
    }
  });
}

/** Does the step to do now over the link. @throws {EternoError} `conflict`, `refused` where a check holds it back or nothing is linked */
export async function runStep(roundId: string, version: number): Promise<JobView> {
  const context = await expectStep(roundId, version, null);
  const work = EXECUTORS[context.step.stepKey];
  if (!work) throw new EternoError('conflict', 'this is not a step of the link');
  profileOf(context.handset);
  await needGates(context, context.step, overridesOf(context));
  return runStepJob(context, version, { title: titleOf(context, context.step), work });
}
export const titleOf = (context: RoundContext, step: RoundStepRow) => STEP_KINDS[step.stepKey].text(aboutStep(context, step)).title;

const SENT: Readonly<Partial<Record<StepKey, 'bootloader' | 'recovery'>>> = { bootloader: 'bootloader', recovery: 'recovery' };

/** The same as the keys, without them. */
export async function sendToStepMode(roundId: string, version: number): Promise<void> {
  const { handset, step } = await expectStep(roundId, version, ['bootloader', 'recovery']);
  await sendToMode(profileOf(handset), SENT[step.stepKey]!);
}

/** Putting stock back is a rescue: what only speaks of the patched image, or was never read, does not hold it up. */
const RESCUE_OVERRIDES: readonly Override[] = ['kit', 'battery', 'room', 'sources', 'root-sources'].map((checkId) => ({
  checkId,
  reason: 'the stock image is put back',
}));

/** The round stands before its last write again. */
async function standBeforeWrite({ round, handset, steps, step }: StepContext, version: number, evidence: readonly Evidence[]): Promise<void> {
  const again = steps.filter((one) => one.position >= step.position);
  await changeRound(
    round.id,
    version,
    {},
    again.map((one) => ({ id: one.id, change: { state: 'waiting' as const, startedAt: null, endedAt: null, actor: null, evidence: '[]' } })),
  );
  await appendEvent({ at: now(), handsetId: handset.id, roundId: round.id, kind: 'stock-put-back', data: { version: 1, evidence } });
  publish({ type: 'round', roundId: round.id, version: version + 1 });
}

/** The way back in the middle of a round: the stock image of the slot it is about, from the bootloader. */
export async function putStockBack(roundId: string, version: number): Promise<JobView> {
  const expected = await expectStep(roundId, version, null);
  const written = expected.steps.findLast((one) => one.planned.writes && one.position <= expected.step.position && one.planned.mode !== 'system');
  const step = written ?? expected.step;
  const rescue: StepContext = { ...expected, step: { ...step, stepKey: 'write-stock' } };
  if (!stockFor(rescue, step)) throw new EternoError('refused', 'Not yet: the stock image is not in the vault.');
  await needGates(rescue, rescue.step, RESCUE_OVERRIDES);
  return runStepJob(rescue, version, {
    title: 'Write the stock image back',
    work: writeSingle,
    finished: (at, evidence) => standBeforeWrite({ ...expected, step }, at, evidence),
  });
}

/** A restart offer on the handset was refused: it is counted. */
export async function refuseOffer(roundId: string, version: number): Promise<void> {
  const { round, handset } = await roundContext(roundId);
  if (round.version !== version || round.state !== 'open') throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
  await countRefusal({ id: roundId, handsetId: handset.id, version });
}

/** The round itself does not change: a step may be running on it, or ending at this moment. */
async function countRefusal({ id, handsetId, version }: Pick<RoundRow, 'id' | 'handsetId' | 'version'>): Promise<void> {
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

/** It restarted where it should not have: what runs now is read, the slip is counted, and the way on is planned anew. */
export async function itRestarted(roundId: string, version: number): Promise<void> {
  const context = await roundContext(roundId);
  const { round, handset, steps } = context;
  if (round.version !== version || round.state !== 'open') throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
  if (steps.some((step) => step.state === 'running')) throw new EternoError('conflict', 'a step is running: stop it first');
  if (handset.link === 'stand-in') {
    const profile = profileOf(handset);
    const view = await standInView(profile);
    if (view?.state.mode !== 'system') throw new EternoError('link-lost', 'Its system does not run yet: let it come up first.');
    await appendEvent({ at: now(), handsetId: handset.id, roundId, kind: 'slip', data: { version: 1, slip: 'early restart' } });
    const { facts } = await keepSystemFacts({ handset, profile });
    const answer = await withSystem(profile, (client) => client.ask({ do: 'view' }));
    const rooted = (answer['view'] as { state: { running: { rooted: boolean } | null } }).state.running?.rooted === true;
    await tellRoot(
      handset.id,
      roundId,
      rooted ? 'unproven' : 'lost',
      `it restarted before its time${facts.buildId === null ? '' : ` and runs ${facts.buildId}`}`,
    );
  } else {
    await appendEvent({ at: now(), handsetId: handset.id, roundId, kind: 'slip', data: { version: 1, slip: 'early restart' } });
    await tellRoot(handset.id, roundId, 'lost', 'it restarted before its time, as was said');
  }
  await replan(roundId, (await findRound(roundId))!.version);
}

const uniqueWrites = (writes: readonly Written[]) => [...new Map(writes.map((one) => [named(one.partition, one.slot), one])).values()];

/** At the server's start nothing can be running: what says so was interrupted, and a partition that may have been written is unknown. */
export async function interruptStep(step: Readonly<StepRow>): Promise<void> {
  const round = await findRound(step.roundId);
  if (!round) return;
  const context = await roundContext(round.id);
  const interrupted = context.steps.find(({ id }) => id === step.id);
  const keys = interrupted ? [interrupted.stepKey, ...(await runningJobKinds(round.id)).filter(isStepKey)] : [];
  const doubt = uniqueWrites(keys.flatMap((stepKey) => mayHaveWritten(context, { ...interrupted!, stepKey })));
  for (const { partition, slot } of doubt)
    await tellSlot({
      handsetId: round.handsetId,
      slot,
      partition,
      sha256: null,
      certainty: 'unknown',
      reason: 'Eterno ended in the middle of a write',
    });
  const names = doubt.map(({ partition, slot }) => named(partition, slot)).join(', ');
  const evidence = [
    strong(
      doubt.length > 0
        ? `Eterno ended in the middle of the write: ${names} is unknown until it is read or written again`
        : 'Eterno ended in the middle of this step',
    ),
  ];
  await changeRound(round.id, round.version, {}, [{ id: step.id, change: { state: 'interrupted', evidence: JSON.stringify(evidence) } }]);
  await appendEvent({ at: now(), handsetId: round.handsetId, roundId: round.id, kind: 'step-interrupted', data: { version: 1, key: step.key } });
}
