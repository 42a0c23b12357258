import 'server-only';
import { randomUUID } from 'node:crypto';
import { readPieces } from '@/core/bytes/byte-source';
import { sha256OfSource } from '@/core/bytes/digest';
import { hashedSource } from '@/core/bytes/hashed-source';
import { EternoError, throwIfAborted } from '@/core/errors';
import { whyNotSideload } from '@/core/gates/sideload-package';
import { sideloadWords } from '@/core/words/sideload';
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
import { atStep, runStepJob, titleOf } from './over-link';
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

/** @throws {EternoError} `cancelled`, `truncated` */
function orStopped<T>(work: Promise<T>, signal: AbortSignal): Promise<T> {
  let over = () => undefined as void;
  return new Promise<T>((resolve, reject) => {
    const stop = () => reject(new EternoError('cancelled', 'Stopped on request.'));
    const silent = setTimeout(
      () => reject(new EternoError('truncated', 'the package stopped coming')),
      SILENT_MS,
    );
    signal.addEventListener('abort', stop, { once: true });
    over = () => {
      clearTimeout(silent);
      signal.removeEventListener('abort', stop);
    };
    work.then(resolve, reject);
  }).finally(() => over());
}

/** A browser that sends nothing for so long sends nothing any more. */
const SILENT_MS = 60_000;

/**
 * Pieces as they come, until the job is stopped or the sender falls silent.
 * @throws {EternoError} `cancelled`, `truncated`
 */
async function* stoppable(
  pieces: AsyncIterable<Uint8Array>,
  signal: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const iterator = pieces[Symbol.asyncIterator]();
  for (;;) {
    throwIfAborted(signal);
    const next = await orStopped(iterator.next(), signal);
    if (next.done === true) return;
    yield next.value;
  }
}

/**
 * @returns the hash of what was judged
 * @throws {EternoError} `does-not-fit` with the reason, and of the package's readers
 */
async function judge(running: StepRun, source: FileSource, fileName: string): Promise<string> {
  const { round, step, known, facts, watch } = running;
  watch.onProgress({ phase: 'judge', doneBytes: 0, totalBytes: source.size });
  const { report } = await openPackageFiles([source], nodePorts, { signal: watch.signal });
  const edges = (await listEdges())
    .filter(({ device }) => device === facts.device)
    .map(({ allowed, ...edge }) => ({ ...edge, allowed: allowed === 'yes' }));
  const why = whyNotSideload(report, fileName, {
    installed: installedOf(known),
    target: round.target ?? step.planned.build,
    edges,
  });
  if (why !== null)
    throw new EternoError('does-not-fit', `${sideloadWords(why)} Nothing was sent to the handset.`, {
      file: fileName,
    });
  return sha256OfSource(nodeDigests, source, watch.signal);
}

async function sendJudged({ link, watch }: StepRun, source: FileSource, sha256: string): Promise<void> {
  const hashed = await hashedSource(source, { sha256, digests: nodeDigests });
  const pieces = async function* (): AsyncGenerator<Uint8Array> {
    let held: Uint8Array | null = null;
    for await (const piece of readPieces(hashed)) {
      if (held) yield held;
      held = piece;
    }
    hashed.prove();
    if (held) yield held;
  };
  await link.sideload(source.size, pieces(), (doneBytes) =>
    watch.onProgress({ phase: 'send', doneBytes, totalBytes: source.size }),
  );
}
