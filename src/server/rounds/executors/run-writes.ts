import 'server-only';
import type { KeptImage, KeptKit } from '@/core/bench/bench';
import type { ByteSource } from '@/core/bytes/byte-source';
import type { Proved } from '@/core/bytes/hashed-source';
import { EternoError } from '@/core/errors';
import type { LinkTarget } from '@/core/link/handset-link';
import type { Evidence } from '@/core/rounds/evidence';
import * as say from '@/core/words/step-evidence';
import { nodeDigests } from '@/platform/node/node-digests';
import { openInVault, readProved } from '../../vault/vault';
import { imageOf, partitionFor, slotOf } from '../round-context';
import { slotsWritten } from '../step-writes';
import { needJudged } from './judged-write';
import { untilStartedFromMemory } from './run-modes';
import { recordAfter } from './tamper-record';
import type { Executor, Executors, StepRun } from './running';
import {
  modeNow,
  named,
  readyListed,
  readyToWrite,
  stillWriting,
  strong,
  until,
  untilListed,
  readBackOf,
} from './running';

/* Steps that write to the handset from outside. */

const MINUTE = 60_000;

export async function withImage<T>(
  image: KeptImage,
  work: (source: Awaited<ReturnType<typeof openInVault>>) => Promise<T>,
): Promise<T> {
  const source = await openInVault('images', image.sha256);
  try {
    return await work(source);
  } finally {
    await source.close();
  }
}

/** What a row of the vault was proved to be, for whoever sends its file. */
export const provedAs = ({ sha256 }: KeptImage): Proved => ({ sha256, digests: nodeDigests });

export function needImage(image: KeptImage | null): KeptImage {
  if (!image) throw new EternoError('refused', 'Not yet: the image is not in the vault.');
  return image;
}

/**
 * Writes what `source` holds to one partition, if it is what was proved and may be written there.
 * @param image its row in the vault; null where it passes through from its package
 */
export async function writeSource(
  running: StepRun,
  source: ByteSource,
  proved: Proved,
  { partition, slot, logical = null }: LinkTarget & { readonly logical?: boolean | null },
  image: KeptImage | null,
): Promise<Evidence> {
  const { link, watch, began, wrote } = running;
  const mode = await modeNow(running);
  if (mode === null) throw new EternoError('link-lost', 'No handset is listed any more.');
  await needJudged(running, { image, sizeBytes: source.size }, { partition, slot, mode, logical });
  const target = await link
    .write({ partition, slot }, source, proved, {
      signal: watch.signal,
      onProgress(progress) {
        if (progress.phase !== 'send') began(partition, slot);
        // between two pieces it may be stopped; one command can't be
        if (progress.phase === 'write') watch.hold(stillWriting(named(partition, slot)));
        watch.onProgress(progress);
      },
    })
    .finally(() => watch.hold(null));
  wrote(partition, slot, proved.sha256, 'predicted', say.WRITTEN_BY[link.reaches]);
  return strong(`${target}: ${source.size} bytes written, ${proved.sha256}`);
}

export const writeOne = (running: StepRun, image: KeptImage, partition: string, slot: string | null) =>
  withImage(image, (source) => writeSource(running, source, provedAs(image), { partition, slot }, image));

/** Writes one image of the vault to the slot of the step. */
export const writeSingle: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const key = running.step.key;
  const partition = partitionFor(running, running.step, image);
  if (partition === null) throw new EternoError('refused', 'Where its recovery lives was never read.');
  const reading = await readyToWrite(running);
  const written: Evidence[] = [];
  for (const slot of slotsWritten(running, running.step))
    written.push(await writeOne(running, image, partition, slot));
  if (key === 'write-stock') running.tell({ root: { state: 'stock', why: 'stock image written back' } });
  return [...reading.evidence, ...written, ...(await recordAfter(running, reading))];
};

const RESTART_MS = 2 * MINUTE;

/** After it left the list it comes back by itself. */
export const backInReach = (running: StepRun, mode: 'bootloader' | 'userspace') =>
  untilListed(running, 'wait for it to come back', RESTART_MS, mode);

const startOnce: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const { evidence } = await readyToWrite(running);
  const { partition, sizeBytes } = image;
  const slot = slotOf(running, running.step);
  await needJudged(running, { image, sizeBytes }, { partition, slot, mode: 'bootloader' });
  await withImage(image, (source) => running.link.startOnce(source, provedAs(image), running.watch));
  if (running.link.reaches === 'its bootloader') return [...evidence, strong(say.sentToStart(image.sha256))];
  await untilStartedFromMemory(running);
  return [...evidence, strong(`started from memory: ${image.sha256}; nothing was written`)];
};

/** The kit that made an image. @throws {EternoError} `refused` */
export function kitOf({ bench }: StepRun, image: KeptImage): KeptKit {
  const kit = bench.kits.find((row) => `${row.kitId} ${row.version}` === image.kit);
  if (!kit) throw new EternoError('refused', 'The kit that made the image is not in the vault.');
  return kit;
}

/** A file of the vault on the handset's storage, its size looked at afterwards. */
export async function pushFromVault(
  { link }: StepRun,
  shelf: 'images' | 'kits' | 'installs',
  sha256: string,
  path: string,
): Promise<void> {
  const bytes = await readProved(shelf, sha256);
  await link.push(path, bytes);
  if ((await link.list('/storage')).find((file) => file.path === path)?.size !== bytes.length)
    throw new EternoError('io', 'What arrived on the handset has another size.');
}

export async function pushKit(running: StepRun, kit: KeptKit): Promise<string> {
  const path = `/storage/${kit.kitId}-${kit.version}.zip`;
  await pushFromVault(running, 'kits', kit.sha256, path);
  return path;
}

/** So often a partition is read while something on the handset's screen may change it. */
const READ_EVERY_MS = 3000;

/** The kit goes onto the handset; the recovery installs it; what came of it is read back. */
const rootZip: Executor = async (running) => {
  const { handset, rootPartition } = running;
  const image = needImage(imageOf(running, running.step));
  if (rootPartition === null) throw new EternoError('refused', 'Where root sits is not known.');
  const { evidence } = await readyListed(running, 'recovery');
  const path = await pushKit(running, kitOf(running, image));
  const slot = slotOf(running, running.step);
  const name = named(rootPartition, slot);
  running.began(rootPartition, slot);
  const read = () => readBackOf(running, name);
  const before = await read();
  // half of it may be written when it is read: it has to read the same twice
  let last = before;
  const sha256 = await until(
    running,
    `choose “Install ${path.split('/').at(-1)}” on the handset`,
    30 * MINUTE,
    async () => {
      const now = await read();
      const settled = now !== before && now === last;
      last = now;
      return settled ? now : null;
    },
    READ_EVERY_MS,
  );
  running.wrote(rootPartition, slot, sha256, 'read', 'read back in the recovery');
  if (sha256 !== image.sha256)
    throw new EternoError(
      'bad-hash',
      `${rootPartition} read back is ${sha256}, not the image that was proved for ${handset.name}.`,
    );
  return [
    ...evidence,
    strong(`${name} read back in the recovery: ${sha256}, the image that was proved here`),
  ];
};

export const WRITES = {
  'write-root': writeSingle,
  'write-stock': writeSingle,
  'write-other-stock': writeSingle,
  'write-recovery': writeSingle,
  'write-stock-recovery': writeSingle,
  'start-once': startOnce,
  'root-zip': rootZip,
} as const satisfies Executors;
