import type { ByteSource } from '../../bytes/byte-source';
import { concatBytes, equalBytes, fromHex, toHex } from '../../bytes/bytes';
import { digestBytes, sha256OfSource } from '../../bytes/digest';
import type { ImageSink } from '../../bytes/image-sink';
import { decodeAll } from '../../codecs/decode-all';
import { EternoError, throwIfAborted } from '../../errors';
import { LIMITS } from '../../limits';
import type { Ports, Watch } from '../../ports';
import { runSeveral } from '../../run-several';
import type { Extent, PartitionUpdate } from './layout';
import type { PlannedOperation } from './plan-operations';
import { needsOld, planOperations } from './plan-operations';
import { prefixHash } from './prefix-hash';
import type { Payload } from './reader';
import { blobBytesOf, findPartition, partitionBytes } from './reader';

/**
 * Operations under way for each thread: one at work, one waiting at its door, so that none waits for the disk
 * or for a hash.
 */
const PER_THREAD = 2;

export interface ExtractedPartition {
  readonly size: number;
  /** SHA-256 of the whole image as read back, lower-case hex. */
  readonly sha256: string;
  /** Whether the payload states a hash for the partition; it has then been compared. */
  readonly verified: boolean;
}

/** What an incremental payload starts from. */
export interface OldPartition {
  readonly image: ByteSource;
  /** The new bytes that a binary patch makes of old ones. */
  applyPatch(old: Uint8Array, patch: Uint8Array, newBytes: number): Promise<Uint8Array>;
}

/**
 * Takes one partition of a payload out: each blob's hash is checked before it is used, the old image's and
 * each operation's source hash before anything is made of them, the whole image's after it was written.
 * Several operations are under way at once.
 * @throws {EternoError} `not-found` (partition, or old image), `wrong-source`, `unsupported`, `truncated`,
 *   `corrupt`, `bad-hash`, `overlap`,
 *   `bad-field`, `too-large`, `cancelled`
 */
export async function extractPartition(
  payload: Payload,
  name: string,
  sink: ImageSink,
  ports: Ports,
  watch: Watch = {},
  old: OldPartition | null = null,
): Promise<ExtractedPartition> {
  const partition = findPartition(payload, name);
  const { blockSize } = payload.manifest;
  const size = partitionBytes(partition, blockSize);
  if (size > LIMITS.partitionBytes)
    throw new EternoError('too-large', `the partition "${name}" claims ${size} bytes`, {
      file: payload.source.name,
    });
  const source = needsOld(partition) ? old : null;
  if (source) await checkOld(source.image, partition, ports, watch);
  const planned = planOperations(payload, partition, size, source ? source.image.size : null);
  await sink.begin(size);
  const totalBytes = blobBytesOf(partition);
  let doneBytes = 0;
  const hash = await prefixHash(
    planned.map(({ operation }) => operation.dstExtents),
    blockSize,
    size,
    sink,
    ports.digests,
    watch.signal,
  );
  planned.forEach(({ work }, i) => (work.from === 'zeros' ? hash.done(i) : undefined));
  const started = [...planned.entries()].filter(([, { work }]) => work.from !== 'zeros');
  await runSeveral(started, ports.codecs.width * PER_THREAD, async ([index, one]) => {
    throwIfAborted(watch.signal);
    const output = await produce(payload, one, source, ports, watch.signal);
    await writeExtents(sink, one.operation.dstExtents, output, blockSize, size);
    hash.done(index);
    doneBytes += one.operation.dataLength;
    watch.onProgress?.({ phase: 'extract', doneBytes, totalBytes });
  });
  const sha256 = await hash.finish();
  if (partition.sha256 && !equalBytes(fromHex(sha256), partition.sha256)) {
    throw new EternoError('bad-hash', `${name}: the image does not have the hash that the package states`, {
      file: payload.source.name,
      details: { expected: toHex(partition.sha256), got: sha256 },
    });
  }
  return { size, sha256, verified: partition.sha256 !== null };
}

/** The old image must be the very one the payload was made from. @throws {EternoError} `wrong-source` */
async function checkOld(
  image: ByteSource,
  partition: PartitionUpdate,
  ports: Ports,
  watch: Watch,
): Promise<void> {
  const wrong = (what: string, details: Readonly<Record<string, string | number>>) =>
    new EternoError('wrong-source', `${partition.name} must be made from another image: ${what}`, {
      file: image.name,
      details,
    });
  if (partition.oldSize !== null && image.size !== partition.oldSize)
    throw wrong(`it has ${image.size} bytes where the old one has ${partition.oldSize}`, {
      expected: partition.oldSize,
      got: image.size,
    });
  if (!partition.oldSha256) return;
  const [got, expected] = [
    await sha256OfSource(ports.digests, image, watch.signal),
    toHex(partition.oldSha256),
  ];
  if (got !== expected)
    throw wrong(`it has SHA-256 ${got} where the old one has ${expected}`, { expected, got });
}

async function produce(
  payload: Payload,
  { operation, what, work, blob, outputBytes }: PlannedOperation,
  old: OldPartition | null,
  ports: Ports,
  signal: AbortSignal | undefined,
): Promise<Uint8Array> {
  const file = payload.source.name;
  const { blockSize } = payload.manifest;
  const stored = blob[1] > blob[0] ? await payload.source.read(blob[0], blob[1], signal) : new Uint8Array(0);
  if (
    stored.length > 0 &&
    operation.dataSha256 &&
    !equalBytes(await digestBytes(ports.digests, 'sha256', stored), operation.dataSha256)
  ) {
    throw new EternoError('bad-hash', `${what}: its data is not what the package says; the file is damaged`, {
      file,
      offset: blob[0],
    });
  }
  let output: Uint8Array;
  try {
    if (work.from === 'blob')
      output = work.codec ? await decodeAll(ports.codecs, work.codec, stored, outputBytes) : stored;
    else {
      const before = await readOld(old!.image, operation.srcExtents, blockSize, signal);
      if (
        operation.srcSha256 &&
        !equalBytes(await digestBytes(ports.digests, 'sha256', before), operation.srcSha256)
      )
        throw new EternoError('wrong-source', 'the old blocks it reads are not those it was made from');
      output =
        work.from === 'old' && work.patched ? await old!.applyPatch(before, stored, outputBytes) : before;
    }
  } catch (thrown) {
    if (thrown instanceof EternoError)
      throw new EternoError(thrown.code, `${what}: ${thrown.message}`, {
        file,
        offset: blob[0] + (thrown.offset ?? 0),
        cause: thrown,
      });
    throw thrown;
  }
  if (output.length > outputBytes || output.length <= outputBytes - blockSize)
    throw new EternoError('corrupt', `${what}: ${output.length} bytes came out where ${outputBytes} belong`, {
      file,
      offset: blob[0],
    });
  return output;
}

/**
 * The old blocks one after another; what lies behind the end of an image that is no whole number of blocks
 * reads as zeros.
 */
async function readOld(
  image: ByteSource,
  extents: readonly Extent[],
  blockSize: number,
  signal?: AbortSignal,
): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for (const { startBlock, blockCount } of extents) {
    const [start, end] = [startBlock * blockSize, (startBlock + blockCount) * blockSize];
    parts.push(await image.read(start, Math.min(end, image.size), signal));
    if (end > image.size) parts.push(new Uint8Array(end - image.size));
  }
  return concatBytes(parts);
}

async function writeExtents(
  sink: ImageSink,
  extents: readonly Extent[],
  output: Uint8Array,
  blockSize: number,
  size: number,
): Promise<void> {
  let from = 0;
  for (const extent of extents) {
    const at = extent.startBlock * blockSize;
    const part = output.subarray(from, from + Math.min(extent.blockCount * blockSize, size - at));
    await sink.writeAt(at, part);
    from += extent.blockCount * blockSize;
  }
}
