import 'server-only';
import { randomUUID } from 'node:crypto';
import { sha256OfSource } from '@/core/bytes/digest';
import { provedPieces } from '@/core/bytes/hashed-source';
import { EternoError } from '@/core/errors';
import { judgePackage } from '@/core/judge/judge-package';
import { writeSawWords } from '@/core/words/write';
import { LIMITS } from '@/core/limits';
import { openPackageFiles } from '@/core/packages/open-package';
import type { FileSource } from '@/platform/node/file-source';
import { openFile } from '@/platform/node/file-source';
import { nodeDigests } from '@/platform/node/node-digests';
import { nodePorts } from '@/platform/node/node-ports';
import { listEdges } from '../repositories/record-repository';
import { installedOf } from '../services/fact-service';
import { forgetIncoming, incomingPath, receiveFile } from '../services/incoming';
import { jobEnded } from '../services/jobs';
import { stoppable } from '../services/streams';
import { atStep, runStepJob, titleOf } from './over-link';
import { buildOfStep } from './round-context';
import { refusalError } from '@/core/words/refusals';
import type { Executor, StepRun } from './executors/running';
import { readyListed, strong } from './executors/running';

export interface SentPackage {
  /** As announced; bytes. */
  readonly size: number;
  readonly pieces: AsyncIterable<Uint8Array>;
  readonly fileName: string;
}

/**
 * Sends a package to the handset. All of it is taken to disk, hashed and judged here before the handset gets
 * its first byte; what is sent is hashed again, and its last byte goes only when it is what was judged.
 * Nothing of it is kept.
 * @throws {EternoError} `conflict`, `refused` where a check holds the step back; what is wrong with the
 *   package ends the step as failed
 */
export async function sideloadStep(roundId: string, version: number, sent: SentPackage): Promise<void> {
  const context = await atStep(roundId, version);
  if (context.step.key !== 'sideload') throw refusalError({ because: 'another-step' });
  const job = await runStepJob(context, version, {
    title: titleOf(context, context.step),
    work: (running) => send(running, sent),
  });
  await jobEnded(job.id);
}

const send = async (running: StepRun, { size, pieces, fileName }: SentPackage): ReturnType<Executor> => {
  const { watch } = running;
  await readyListed(running, 'sideload');
  const token = randomUUID();
  try {
    const came = await receiveFile(
      token,
      stoppable(pieces, watch.signal),
      Math.min(size, LIMITS.sideloadBytes),
      (doneBytes) => watch.onProgress({ phase: 'receive', doneBytes, totalBytes: size }),
    );
    if (came !== size) throw new EternoError('truncated', `the package ended after ${came} of ${size} bytes`);
    const source = await openFile(incomingPath(token));
    try {
      const sha256 = await judge(running, source, fileName);
      // it took its time to come: the handset is looked at once more
      const { evidence } = await readyListed(running, 'sideload');
      await sendJudged(running, source, sha256);
      return [
        ...evidence,
        strong(`${fileName.slice(0, 200)}: ${size} bytes sent, ${sha256}, and taken by the recovery`),
      ];
    } finally {
      await source.close();
    }
  } finally {
    await forgetIncoming(token);
  }
};

/**
 * @returns the hash of what was judged
 * @throws {EternoError} `does-not-fit` with the reason, and of the package's readers
 */
async function judge(running: StepRun, source: FileSource, fileName: string): Promise<string> {
  const { step, known, facts, watch } = running;
  watch.onProgress({ phase: 'judge', doneBytes: 0, totalBytes: source.size });
  const { report } = await openPackageFiles([source], nodePorts, { signal: watch.signal });
  const edges = (await listEdges())
    .filter(({ device }) => device === facts.device)
    .map(({ allowed, ...edge }) => ({ ...edge, allowed: allowed === 'yes' }));
  const wrong = judgePackage({
    report,
    fileName,
    installed: installedOf(known),
    wanted: buildOfStep(running, step, 'the target'),
    edges,
    handset: {
      mode: 'sideload',
      // the gates asked it, and nothing reads it in this mode
      battery: { percent: null, fit: null, ageSeconds: null },
      snapshot: known.value('snapshot'),
    },
  }).checks.find(({ holds }) => holds === false);
  if (wrong)
    throw new EternoError('does-not-fit', `${writeSawWords(wrong.saw)} Nothing was sent to the handset.`, {
      file: fileName,
      details: { check: wrong.id },
    });
  return sha256OfSource(nodeDigests, source, watch.signal);
}

async function sendJudged({ link, watch }: StepRun, source: FileSource, sha256: string): Promise<void> {
  const pieces = provedPieces(source, { sha256, digests: nodeDigests }, watch.signal);
  await link.sideload(source.size, pieces, (doneBytes) =>
    watch.onProgress({ phase: 'send', doneBytes, totalBytes: source.size }),
  );
}
