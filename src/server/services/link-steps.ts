import 'server-only';
import type { JobView } from '@/contracts/job-view';
import type { Evidence } from '@/contracts/round-view';
import { sha256Hex } from '@/core/bytes/digest';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import type { Override } from '@/core/gates/check';
import { blocking } from '@/core/gates/check';
import type { Watch } from '@/core/ports';
import type { BootloaderClient } from '@/link/bootloader-client';
import { writeImage } from '@/link/write-image';
import { nodeDigests } from '@/platform/node/node-digests';
import type { StepRow } from '../db/models';
import { appendEvent } from '../repositories/event-repository';
import { readSecret } from '../repositories/handset-repository';
import { changeRound, findRound } from '../repositories/round-repository';
import { openInVault } from '../vault/vault';
import { now } from './clock';
import { applyFacts } from './fact-service';

import { startJob } from './jobs';
import { propertyDump } from './link-facts';
import { publish } from './message-bus';
import { expectStep, finishStep } from './round-service';
import type { RoundContext } from './round-view';
import { gatesOf } from './round-view';
import { tellRoot } from './root-history';
import { tellSlot } from './slot-service';
import { noteKitTrial } from './trial-service';
import { standInView, withBootloader, withSystem } from './stand-in-service';

/* Steps that Eterno does itself over the link. Each refuses unless it is the step to do now. */

type StepContext = RoundContext & { step: Readonly<StepRow> };

function needLink({ handset }: RoundContext): void {
  if (handset.link !== 'stand-in') throw new EternoError('refused', 'This handset is not linked: do the step by hand.');
}

export async function readFactsOverLink(roundId: string, version: number): Promise<void> {
  const context = await expectStep(roundId, version, ['read-facts']);
  needLink(context);
  const facts = await applyFacts(context.handset.id, await propertyDump(), 'link');
  await finishStep(context, version, 'link', [
    { what: `the running system says build ${facts.buildId}, slot ${facts.currentSlot}`, strength: 'strong' },
    { what: 'the serial is this handset’s', strength: 'strong' },
  ]);
}

/** Variables read in the bootloader, checked to be of this very handset. @throws {EternoError} `refused` */
async function readBootloader(
  client: BootloaderClient,
  handsetId: string,
  device: string | null,
): Promise<{ text: string; evidence: Evidence[]; slot: string | null; unlocked: boolean | null; batteryOk: boolean | null }> {
  const text = (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n');
  const facts = interpretFacts(parsePrinted(text).values);
  const serial = await readSecret(handsetId, 'serial');
  if (facts.serial === null || serial === null)
    throw new EternoError('refused', 'The serial could not be read in both modes, so this may be another handset.');
  if (facts.serial !== serial)
    throw new EternoError('refused', 'The handset in the bootloader has another serial than the one that was running. Nothing is written.');
  if (device !== null && facts.device !== device)
    throw new EternoError('refused', `The bootloader says ${facts.device}, the system said ${device}. Nothing is written.`);
  return {
    text,
    slot: facts.currentSlot,
    unlocked: facts.unlocked,
    batteryOk: facts.batteryOk,
    evidence: [
      { what: 'same serial in the system and in the bootloader', strength: 'strong' },
      { what: `bootloader says ${facts.unlocked ? 'unlocked' : 'locked'}, slot ${facts.currentSlot}`, strength: 'strong' },
    ],
  };
}

export async function enterBootloader(roundId: string, version: number): Promise<void> {
  const context = await expectStep(roundId, version, ['enter-bootloader']);
  needLink(context);
  const read = await withBootloader((client) => readBootloader(client, context.handset.id, context.facts.device)).catch((thrown: unknown) => {
    const error = toEternoError(thrown);
    throw error.code === 'link-lost'
      ? new EternoError('link-lost', 'The handset is not in its bootloader yet, or its cable is out.', { cause: error })
      : error;
  });
  await applyFacts(context.handset.id, read.text, 'link');
  await finishStep(context, version, 'link', read.evidence);
}

/** Restarts the running system into the bootloader: the same as the keys, without them. */
export async function sendToBootloader(roundId: string, version: number): Promise<void> {
  needLink(await expectStep(roundId, version, ['enter-bootloader']));
  await withSystem((client) => client.ask({ do: 'restart', to: 'bootloader' }));
}

/** What a job on a step does: its work, what to write down when it fails, and how the round goes on (by default the step is done). */
interface StepJob {
  readonly title: string;
  readonly work: (watch: Required<Watch>) => Promise<readonly Evidence[]>;
  readonly failed: (error: EternoError) => Promise<Evidence[]>;
  readonly finished?: (version: number, evidence: readonly Evidence[]) => Promise<void>;
}

/** Marks a step as running, then does its work as a job; the step ends done or failed with what was seen. */
async function runStepJob(context: StepContext, version: number, { title, work, failed, finished }: StepJob): Promise<JobView> {
  const { round, handset } = context;
  const step = { ...context.step, startedAt: context.step.startedAt ?? now() };
  const change = async (at: number, patch: Partial<StepRow>) => {
    await changeRound(round.id, at, {}, [{ id: step.id, change: patch }]);
    publish({ type: 'round', roundId: round.id, version: at + 1 });
  };
  await change(version, { state: 'running', startedAt: step.startedAt, actor: 'link' });
  return startJob({ kind: step.key, title, roundId: round.id }, async (watch) => {
    try {
      const evidence = await work(watch);
      await (finished ? finished(version + 1, evidence) : finishStep({ ...context, step }, version + 1, 'link', evidence));
    } catch (thrown) {
      const error = toEternoError(thrown);
      const evidence = await failed(error);
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

/** After the stock image was put back the round stands before its write again. */
async function standBeforeWrite({ round, handset, steps }: RoundContext, version: number, evidence: readonly Evidence[]): Promise<void> {
  const again = steps.filter((step) => step.key === 'write-image' || step.key === 'restart' || step.key === 'prove-root');
  await changeRound(
    round.id,
    version,
    {},
    again.map((step) => ({ id: step.id, change: { state: 'waiting' as const, startedAt: null, endedAt: null, actor: null, evidence: '[]' } })),
  );
  await appendEvent({ at: now(), handsetId: handset.id, roundId: round.id, kind: 'stock-put-back', data: { version: 1, evidence } });
  publish({ type: 'round', roundId: round.id, version: version + 1 });
}

/** Putting stock back is a rescue: what only speaks of the patched image, or was never read, does not hold it up. */
const RESCUE_OVERRIDES: readonly Override[] = ['kit', 'battery', 'room'].map((checkId) => ({ checkId, reason: 'the stock image is put back' }));

/**
 * Writes the round's image, or its stock image as the way back, to the active slot. Everything is read and checked once more in the
 * bootloader before the first byte.
 */
export async function writeOverLink(roundId: string, version: number, which: 'patched' | 'stock'): Promise<JobView> {
  const expected = await expectStep(roundId, version, which === 'patched' ? ['write-image'] : ['write-image', 'restart', 'prove-root']);
  needLink(expected);
  const context: StepContext = { ...expected, step: expected.steps.find((step) => step.key === 'write-image')! };
  const image = which === 'patched' ? context.images.patched : context.images.stock;
  const open = blocking(await gatesOf(context, which), which === 'patched' ? (JSON.parse(context.round.overrides) as Override[]) : RESCUE_OVERRIDES);
  if (!image || open.length > 0)
    throw new EternoError('refused', `Not yet: ${open.map((check) => check.title.toLowerCase()).join('; ') || 'the image is not in the vault'}.`);
  let began = false;
  let target = context.about.slot === '' ? image.partition : `${image.partition}_${context.about.slot}`;
  const content = (sha256: string | null, certainty: 'predicted' | 'unknown', reason: string) =>
    tellSlot({
      handsetId: context.handset.id,
      slot: context.about.slot || null,
      partition: image.partition,
      sha256,
      certainty,
      reason,
    });
  return runStepJob(context, version, {
    title: `Write ${which === 'stock' ? 'stock' : 'patched'} ${image.partition}`,
    ...(which === 'stock' ? { finished: (at: number, evidence: readonly Evidence[]) => standBeforeWrite(context, at, evidence) } : {}),
    work: async (watch) => {
      const source = await openInVault('images', image.sha256);
      try {
        const evidence = await withBootloader(async (client) => {
          const read = await readBootloader(client, context.handset.id, context.facts.device);
          if (read.unlocked !== true) throw new EternoError('refused', 'The bootloader says it is locked. Nothing is written.');
          if (read.slot !== context.facts.currentSlot)
            throw new EternoError(
              'refused',
              `Slot ${read.slot} is active now, the round was checked for slot ${context.facts.currentSlot}. Nothing is written.`,
            );
          if (read.batteryOk === false) throw new EternoError('refused', 'The handset says its battery is too low for a write. Charge it first.');
          const onProgress: Required<Watch>['onProgress'] = (progress) => {
            began ||= progress.phase === 'write';
            watch.onProgress(progress);
          };
          target = await writeImage(client, { partition: image.partition, slot: read.slot }, source, { signal: watch.signal, onProgress });
          return read.evidence;
        });
        await content(image.sha256, 'predicted', 'written over the link');
        if (which === 'stock') await tellRoot(context.handset.id, roundId, 'stock', 'stock image written back');
        return [...evidence, { what: `${target}: ${image.sizeBytes} bytes written, ${image.sha256}`, strength: 'strong' as const }];
      } finally {
        await source.close();
      }
    },
    failed: async (error) => {
      if (!began) return [{ what: `nothing was written: ${error.message}`, strength: 'strong' }];
      await content(null, 'unknown', 'a write was cut short');
      return [{ what: `the write was cut short, ${target} is unknown until it is written again: ${error.message}`, strength: 'strong' }];
    },
  });
}

const START_TIMEOUT_MS = 120_000;
const POLL_MS = 200;

export async function restartOverLink(roundId: string, version: number): Promise<JobView> {
  const context = await expectStep(roundId, version, ['restart']);
  needLink(context);
  return runStepJob(context, version, {
    title: 'Start the system',
    work: async (watch) => {
      if ((await standInView())?.state.mode === 'bootloader') await withBootloader((client) => client.command('reboot'));
      const began = Date.now();
      for (;;) {
        throwIfAborted(watch.signal);
        const mode = (await standInView())?.state.mode;
        if (mode === 'system') break;
        if (mode === 'looping') throw new EternoError('handset-refused', 'The system does not come up: the handset starts over and over.');
        if (Date.now() - began > START_TIMEOUT_MS) throw new EternoError('handset-refused', 'No start was seen within two minutes.');
        watch.onProgress({ phase: 'start', doneBytes: Math.min(Date.now() - began, START_TIMEOUT_MS), totalBytes: START_TIMEOUT_MS });
        await new Promise((resolve) => setTimeout(resolve, POLL_MS));
      }
      const facts = await applyFacts(context.handset.id, await propertyDump(), 'link');
      if (facts.currentSlot !== context.facts.currentSlot)
        throw new EternoError(
          'handset-refused',
          `It started from slot ${facts.currentSlot}, not from slot ${context.facts.currentSlot}: it fell back.`,
        );
      return [{ what: `started from slot ${facts.currentSlot}, build ${facts.buildId}`, strength: 'strong' }];
    },
    failed: async (error) => {
      if (error.code === 'handset-refused') {
        await tellRoot(context.handset.id, roundId, 'broken', error.message);
        if (/over and over/.test(error.message)) await noteKitTrial(context, 'looped', error.message);
      }
      return [{ what: error.message, strength: 'strong' }];
    },
  });
}

export async function proveOverLink(roundId: string, version: number): Promise<JobView> {
  const context = await expectStep(roundId, version, ['prove-root']);
  needLink(context);
  const expected = context.images.patched;
  return runStepJob(context, version, {
    title: 'Prove root',
    work: async (watch) => {
      watch.onProgress({ phase: 'ask', doneBytes: 0, totalBytes: 2 });
      return withSystem(async (client) => {
        watch.signal.addEventListener('abort', () => client.close(), { once: true });
        const answer = await client.ask({ do: 'root' }).catch((thrown: unknown) => {
          throwIfAborted(watch.signal);
          throw thrown;
        });
        if (answer['granted'] !== true) throw new EternoError('handset-refused', `Root was not granted: ${String(answer['reason'])}.`);
        watch.onProgress({ phase: 'read back', doneBytes: 1, totalBytes: 2 });
        const slot = context.facts.currentSlot;
        const partition = `${context.handset.rootPartition}${slot === null ? '' : `_${slot}`}`;
        const sha256 = await sha256Hex(nodeDigests, await client.read(partition));
        await tellSlot({
          handsetId: context.handset.id,
          slot,
          partition: context.handset.rootPartition ?? '',
          sha256,
          certainty: 'read',
          reason: 'read back with root',
        });
        if (sha256 !== expected?.sha256) throw new EternoError('bad-hash', `${partition} read back is ${sha256}, not the image that was written.`);
        await tellRoot(context.handset.id, roundId, 'proven', 'granted and read back');
        return [
          { what: `root granted with user id ${String(answer['uid'])}, after the prompt on the handset`, strength: 'strong' },
          { what: `${partition} read back: ${sha256}, the image that was written`, strength: 'strong' },
        ];
      });
    },
    failed: async (error) => [{ what: error.message, strength: 'strong' }],
  });
}

/** At the server's start nothing can be running: what says so was interrupted, and a partition that was being written is unknown. */
export async function interruptStep(step: Readonly<StepRow>): Promise<void> {
  const round = await findRound(step.roundId);
  if (!round) return;
  const evidence: Evidence[] = [
    {
      what:
        step.key === 'write-image'
          ? 'Eterno ended in the middle of the write: the partition is unknown until it is written again'
          : 'Eterno ended in the middle of this step',
      strength: 'strong',
    },
  ];
  await changeRound(round.id, round.version, {}, [{ id: step.id, change: { state: 'interrupted', evidence: JSON.stringify(evidence) } }]);
  await appendEvent({ at: now(), handsetId: round.handsetId, roundId: round.id, kind: 'step-interrupted', data: { version: 1, key: step.key } });
}
