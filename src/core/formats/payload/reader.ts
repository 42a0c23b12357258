import type { ByteSource } from '../../bytes/byte-source';
import { equalBytes, fromHex, toHex } from '../../bytes/bytes';
import { digestBytes, sha256OfSource } from '../../bytes/digest';
import type { ImageSink } from '../../bytes/image-sink';
import type { CodecName } from '../../codecs/codec';
import { EternoError, throwIfAborted } from '../../errors';
import { LIMITS } from '../../limits';
import type { Ports, Watch } from '../../ports';
import type { Extent, Manifest, Operation, OperationName, PartitionUpdate } from './layout';
import { parseManifest, parsePayloadHeader, PAYLOAD_HEADER_BYTES } from './layout';

export interface Payload {
  readonly source: ByteSource;
  readonly manifest: Manifest;
  /** Offset of the first blob byte: all `dataOffset`s count from here. */
  readonly blobStart: number;
  /** SHA-256 and length of header and manifest, to compare with what the package states. */
  readonly metadataSha256: Uint8Array;
  readonly metadataBytes: number;
}

/** Reads header and manifest, no blob. @throws {EternoError} of `parsePayloadHeader` and `parseManifest` */
export async function readPayload(source: ByteSource, ports: Pick<Ports, 'digests'>): Promise<Payload> {
  const head = await source.read(0, Math.min(source.size, PAYLOAD_HEADER_BYTES));
  const header = parsePayloadHeader(head, source.name);
  const manifestEnd = PAYLOAD_HEADER_BYTES + header.manifestSize;
  const blobStart = manifestEnd + header.metadataSignatureSize;
  if (blobStart > source.size)
    throw new EternoError('truncated', 'the manifest and its signature run past the end of the payload', { file: source.name, offset: 12 });
  const manifest = await source.read(PAYLOAD_HEADER_BYTES, manifestEnd);
  return {
    source,
    manifest: parseManifest(manifest, source.name),
    blobStart,
    metadataSha256: await digestBytes(ports.digests, 'sha256', head, manifest),
    metadataBytes: manifestEnd,
  };
}

const DECODERS: Readonly<Partial<Record<OperationName, CodecName | 'plain' | 'zeros'>>> = {
  REPLACE: 'plain',
  REPLACE_BZ: 'bzip2',
  REPLACE_XZ: 'xz',
  REPLACE_ZSTD: 'zstd',
  ZERO: 'zeros',
  DISCARD: 'zeros',
};

export function findPartition(payload: Payload, name: string): PartitionUpdate {
  const found = payload.manifest.partitions.filter((partition) => partition.name === name);
  if (found.length === 0) throw new EternoError('not-found', `the payload has no partition "${name}"`, { file: payload.source.name });
  if (found.length > 1)
    throw new EternoError('duplicate', `the payload lists the partition "${name}" ${found.length} times`, { file: payload.source.name });
  return found[0]!;
}

/** Operations of a partition that need the old image or can't be done here, by name. */
export function unsupportedOperations(partition: PartitionUpdate): OperationName[] {
  return [...new Set(partition.operations.map((operation) => operation.type))].filter((type) => !DECODERS[type]);
}

/** One operation's work, checked: where its blob lies in the payload and which bytes it writes. */
interface PlannedOperation {
  readonly operation: Operation;
  readonly index: number;
  readonly blob: readonly [number, number];
  readonly outputBytes: number;
}

/** Checks every number of a partition's operations before anything is read. @throws {EternoError} */
function planOperations(payload: Payload, partition: PartitionUpdate, size: number): PlannedOperation[] {
  const { blockSize } = payload.manifest;
  const file = payload.source.name;
  const lastBlock = Math.ceil(size / blockSize);
  const taken: Extent[] = [];
  const planned = partition.operations.map((operation, index): PlannedOperation => {
    const what = `${partition.name}, operation ${index} (${operation.type})`;
    if (!DECODERS[operation.type]) throw new EternoError('unsupported', `${what} needs the old image; a full package has none of these`, { file });
    let blocks = 0;
    for (const extent of operation.dstExtents) {
      if (extent.blockCount === 0 || extent.startBlock + extent.blockCount > lastBlock) {
        throw new EternoError(
          'bad-field',
          `${what} writes blocks ${extent.startBlock} to ${extent.startBlock + extent.blockCount}, but the partition has ${lastBlock}`,
          { file },
        );
      }
      taken.push(extent);
      blocks += extent.blockCount;
    }
    const outputBytes = blocks * blockSize;
    if (blocks === 0) throw new EternoError('bad-field', `${what} writes nothing`, { file });
    const zeros = DECODERS[operation.type] === 'zeros';
    if (!zeros && outputBytes > LIMITS.operationOutputBytes)
      throw new EternoError('too-large', `${what} writes ${outputBytes} bytes at once`, { file });
    if (zeros) return { operation, index, blob: [0, 0], outputBytes };
    if (operation.dataOffset === null) throw new EternoError('bad-field', `${what} has no data`, { file });
    if (operation.dataLength > LIMITS.operationBlobBytes)
      throw new EternoError('too-large', `${what} holds ${operation.dataLength} bytes at once`, { file });
    const start = payload.blobStart + operation.dataOffset;
    const end = start + operation.dataLength;
    if (end > payload.source.size)
      throw new EternoError('truncated', `${what}: its data ends at byte ${end}, but the payload has only ${payload.source.size}`, {
        file,
        offset: Math.min(start, payload.source.size),
      });
    return { operation, index, blob: [start, end], outputBytes };
  });
  taken.sort((a, b) => a.startBlock - b.startBlock);
  taken.forEach((extent, i) => {
    const before = taken[i - 1];
    if (before && before.startBlock + before.blockCount > extent.startBlock) {
      throw new EternoError('overlap', `${partition.name}: block ${extent.startBlock} is written twice`, { file });
    }
  });
  return planned;
}

/** A partition's size as stated, else up to the last block that its operations write. */
export function partitionBytes(partition: PartitionUpdate, blockSize: number): number {
  if (partition.size !== null) return partition.size;
  let end = 0;
  for (const operation of partition.operations) {
    for (const { startBlock, blockCount } of operation.dstExtents) end = Math.max(end, (startBlock + blockCount) * blockSize);
  }
  return end;
}

/** Bytes of blobs that taking a partition out reads. */
export function blobBytesOf(partition: PartitionUpdate): number {
  return partition.operations.reduce((sum, operation) => sum + operation.dataLength, 0);
}

export interface ExtractedPartition {
  readonly size: number;
  /** SHA-256 of the whole image as read back, lower-case hex. */
  readonly sha256: string;
  /** Whether the payload states a hash for the partition; it has then been compared. */
  readonly verified: boolean;
}

/**
 * Takes one partition of a full payload out: each blob's hash is checked before it is unpacked, the whole image's after it was written.
 * @throws {EternoError} `not-found`, `unsupported`, `truncated`, `corrupt`, `bad-hash`, `overlap`, `bad-field`, `too-large`, `cancelled`
 */
export async function extractPartition(
  payload: Payload,
  name: string,
  sink: ImageSink,
  ports: Ports,
  watch: Watch = {},
): Promise<ExtractedPartition> {
  const partition = findPartition(payload, name);
  const { blockSize } = payload.manifest;
  const file = payload.source.name;
  const size = partitionBytes(partition, blockSize);
  if (size > LIMITS.partitionBytes) throw new EternoError('too-large', `the partition "${name}" claims ${size} bytes`, { file });
  const planned = planOperations(payload, partition, size);
  await sink.begin(size);
  const totalBytes = blobBytesOf(partition);
  let doneBytes = 0;
  for (const { operation, index, blob, outputBytes } of planned) {
    throwIfAborted(watch.signal);
    const kind = DECODERS[operation.type]!;
    if (kind === 'zeros') continue;
    const what = `${name}, operation ${index} (${operation.type})`;
    const stored = await payload.source.read(blob[0], blob[1], watch.signal);
    if (operation.dataSha256 && !equalBytes(await digestBytes(ports.digests, 'sha256', stored), operation.dataSha256)) {
      throw new EternoError('bad-hash', `${what}: its data is not what the package says; the file is damaged`, { file, offset: blob[0] });
    }
    let output: Uint8Array;
    try {
      output = kind === 'plain' ? stored : (await ports.codecs.decode(kind, stored, outputBytes)).bytes;
    } catch (thrown) {
      if (thrown instanceof EternoError)
        throw new EternoError(thrown.code, `${what}: ${thrown.message}`, { file, offset: blob[0] + (thrown.offset ?? 0), cause: thrown });
      throw thrown;
    }
    if (output.length > outputBytes || output.length <= outputBytes - blockSize) {
      throw new EternoError('corrupt', `${what}: ${output.length} bytes came out where ${outputBytes} belong`, { file, offset: blob[0] });
    }
    await writeExtents(sink, operation.dstExtents, output, blockSize, size);
    doneBytes += stored.length;
    watch.onProgress?.({ phase: 'extract', doneBytes, totalBytes });
  }
  const sha256 = await sha256OfSource(ports.digests, await sink.readBack(), watch.signal);
  if (partition.sha256 && !equalBytes(fromHex(sha256), partition.sha256)) {
    throw new EternoError('bad-hash', `${name}: the image does not have the hash that the package states`, {
      file,
      details: { expected: toHex(partition.sha256), got: sha256 },
    });
  }
  return { size, sha256, verified: partition.sha256 !== null };
}

async function writeExtents(sink: ImageSink, extents: readonly Extent[], output: Uint8Array, blockSize: number, size: number): Promise<void> {
  let from = 0;
  for (const extent of extents) {
    const at = extent.startBlock * blockSize;
    const part = output.subarray(from, from + Math.min(extent.blockCount * blockSize, size - at));
    await sink.writeAt(at, part);
    from += extent.blockCount * blockSize;
  }
}
