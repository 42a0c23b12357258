import 'server-only';
import { randomUUID } from 'node:crypto';
import { wholeParts } from '@/core/bench/whole-build';
import { EternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import { DEEDS } from '@/core/steps/deeds';
import { refusalError } from '@/core/words/refusals';
import { forgetIncoming, freeBytes, receiveFile } from '../services/incoming';
import { jobEnded } from '../services/jobs';
import { stoppable } from '../services/streams';
import { executorOf } from './executors/executors';
import { buildOfStep } from './round-context';
import type { StepRun } from './executors/running';
import { readyListed, readyToWrite } from './executors/running';
import type { HeldFile } from './held-package';
import { forgetHeld, holdFiles } from './held-package';
import { atStep, runStepJob, titleOf } from './over-link';

/* A whole build is written with the package that the person sends for it. */

export interface SentFiles {
  /** In the order in which they come; sizes in bytes, as announced. */
  readonly files: readonly { readonly name: string; readonly size: number }[];
  /** Gives the next bytes of what comes, as many as are asked for. */
  readonly cut: (bytes: number) => AsyncIterable<Uint8Array>;
}

/** @throws {EternoError} `refused` where the disk has no room for the package and its largest image */
async function needDisk({ bench, round, step }: StepRun, files: SentFiles['files']): Promise<void> {
  const sent = files.reduce((sum, { size }) => sum + size, 0);
  const parts = wholeParts(bench, buildOfStep({ round }, step, 'the target')) ?? [];
  const largest = Math.max(0, ...parts.flatMap(({ passes, size }) => (passes ? (size ?? 0) : [])));
  const free = await freeBytes();
  if (free !== null && free < sent + largest)
    throw new EternoError(
      'refused',
      `This computer has ${free} bytes free; the package and its largest image need ${sent + largest}. Make room first.`,
    );
}

/** Takes the package to disk. @throws {EternoError} `cancelled`, `truncated`, `refused`; nothing is left then */
async function receive(running: StepRun, { files, cut }: SentFiles): Promise<void> {
  const { round, watch } = running;
  await forgetHeld(round.id);
  await needDisk(running, files);
  const totalBytes = files.reduce((sum, { size }) => sum + size, 0);
  const held: HeldFile[] = [];
  let before = 0;
  try {
    for (const { name, size } of files) {
      const token = randomUUID();
      held.push({ token, name, size });
      const came = await receiveFile(
        token,
        stoppable(cut(size), watch.signal),
        LIMITS.sideloadBytes,
        (doneBytes) => watch.onProgress({ phase: 'receive', doneBytes: before + doneBytes, totalBytes }),
      );
      if (came !== size) throw new EternoError('truncated', `${name} ended after ${came} of ${size} bytes`);
      before += size;
    }
    await holdFiles(round.id, held);
  } catch (thrown) {
    for (const { token } of held) await forgetIncoming(token);
    throw thrown;
  }
}

/**
 * Writes a whole build with the package that comes: taken to disk, opened and held against the one that was
 * opened before, then written as its step does it.
 * @throws {EternoError} `conflict`, `refused` where a check holds the step back; what is wrong with the
 *   package ends the step as failed, before anything was written
 */
export async function writeBuildFrom(roundId: string, version: number, sent: SentFiles): Promise<void> {
  const context = await atStep(roundId, version);
  const work = executorOf(context.steps, context.step);
  if (!work || DEEDS[context.step.key].writes?.what !== 'whole build')
    throw refusalError({ because: 'another-step' });
  const job = await runStepJob(context, version, {
    title: titleOf(context, context.step),
    async work(running) {
      // the package takes its time to come: first it is seen that the handset is there
      if (DEEDS[running.step.key].shown?.mode === 'download') await readyListed(running, 'download');
      else await readyToWrite(running);
      await receive(running, sent);
      return work(running);
    },
  });
  await jobEnded(job.id);
}
