import type { CodecName } from '../../codecs/codec';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import type { Extent, Operation, OperationType, PartitionUpdate } from './layout';
import type { Payload } from './reader';

/*
 * What taking a partition out will do, checked before anything is read (docs/formats.md, "Update payload").
 */

/** How an operation's output comes about. */
type Work =
  | { readonly from: 'blob'; readonly codec: CodecName | null }
  | { readonly from: 'zeros' }
  | { readonly from: 'old'; readonly patched: boolean };

const WORK: Readonly<Partial<Record<OperationType, Work>>> = {
  REPLACE: { from: 'blob', codec: null },
  REPLACE_BZ: { from: 'blob', codec: 'bzip2' },
  REPLACE_XZ: { from: 'blob', codec: 'xz' },
  REPLACE_ZSTD: { from: 'blob', codec: 'zstd' },
  ZERO: { from: 'zeros' },
  DISCARD: { from: 'zeros' },
  SOURCE_COPY: { from: 'old', patched: false },
  SOURCE_BSDIFF: { from: 'old', patched: true },
  BROTLI_BSDIFF: { from: 'old', patched: true },
};

/** Types that read the old partition, also those that can't be done here. */
const READS_OLD: ReadonlySet<OperationType> = new Set([
  'MOVE',
  'BSDIFF',
  'SOURCE_COPY',
  'SOURCE_BSDIFF',
  'PUFFDIFF',
  'BROTLI_BSDIFF',
  'ZUCCHINI',
  'LZ4DIFF_BSDIFF',
  'LZ4DIFF_PUFFDIFF',
]);

/** What of a partition can't be done here, by name; empty where all can. Told from the manifest alone. */
export function unsupportedOf(partition: PartitionUpdate): string[] {
  const types = new Set(partition.operations.map((operation) => operation.type));
  const names: string[] = [...types].filter((type) => !WORK[type]);
  if (partition.computesTree && needsOld(partition)) names.push('a hash tree made on the handset');
  return names;
}

/** Whether a partition can only be made from the old one. */
export function needsOld(partition: PartitionUpdate): boolean {
  return partition.operations.some((operation) => READS_OLD.has(operation.type));
}

/**
 * One operation's work, checked: where its blob lies in the payload, which old blocks it reads and how many
 * bytes it writes.
 */
export interface PlannedOperation {
  readonly operation: Operation;
  readonly what: string;
  readonly work: Work;
  readonly blob: readonly [number, number];
  readonly sourceBytes: number;
  readonly outputBytes: number;
}

/**
 * Checks every number of a partition's operations.
 * @param size of the partition in bytes @param oldSize of the old one, or null where there is none at hand
 * @throws {EternoError} `unsupported`, `not-found` (old image), `bad-field`, `truncated`, `overlap`,
 *   `too-large`
 */
export function planOperations(
  payload: Payload,
  partition: PartitionUpdate,
  size: number,
  oldSize: number | null,
): PlannedOperation[] {
  const { blockSize } = payload.manifest;
  const file = payload.source.name;
  const refused = unsupportedOf(partition);
  if (refused.length > 0)
    throw new EternoError(
      'unsupported',
      `${partition.name} is made with ${refused.join(', ')}, which can't be done here; a full package has none of these`,
      {
        file,
      },
    );
  const taken: Extent[] = [];
  const countBlocks = (extents: readonly Extent[], lastBlock: number, what: string) => {
    let blocks = 0;
    for (const extent of extents) {
      const end = extent.startBlock + extent.blockCount;
      if (extent.blockCount === 0 || end > lastBlock)
        throw new EternoError(
          'bad-field',
          `${what} blocks ${extent.startBlock} to ${end}, but the partition has ${lastBlock}`,
          { file },
        );
      blocks += extent.blockCount;
    }
    return blocks;
  };
  const planned = partition.operations.map((operation, index): PlannedOperation => {
    const what = `${partition.name}, operation ${index} (${operation.type})`;
    const work = WORK[operation.type]!;
    const outputBytes =
      countBlocks(operation.dstExtents, Math.ceil(size / blockSize), `${what} writes`) * blockSize;
    for (const extent of operation.dstExtents) taken.push(extent);
    if (outputBytes === 0) throw new EternoError('bad-field', `${what} writes nothing`, { file });
    if (work.from === 'zeros') return { operation, what, work, blob: [0, 0], sourceBytes: 0, outputBytes };
    if (outputBytes > LIMITS.operationOutputBytes)
      throw new EternoError('too-large', `${what} writes ${outputBytes} bytes at once`, { file });
    const sourceBytes =
      work.from === 'old' ? sourceBytesOf(payload, operation, outputBytes, oldSize, what, countBlocks) : 0;
    const blob =
      work.from === 'old' && !work.patched ? ([0, 0] as const) : blobRange(payload, operation, what);
    return { operation, what, work, blob, sourceBytes, outputBytes };
  });
  refuseOverlaps(taken, partition.name, file);
  return planned;
}

function sourceBytesOf(
  { source, manifest }: Payload,
  operation: Operation,
  outputBytes: number,
  oldSize: number | null,
  what: string,
  countBlocks: (extents: readonly Extent[], lastBlock: number, what: string) => number,
): number {
  if (oldSize === null)
    throw new EternoError('not-found', `${what} needs the old image`, { file: source.name });
  const bytes =
    countBlocks(operation.srcExtents, Math.ceil(oldSize / manifest.blockSize), `${what} reads`) *
    manifest.blockSize;
  if (bytes > LIMITS.operationOutputBytes)
    throw new EternoError('too-large', `${what} reads ${bytes} bytes at once`, { file: source.name });
  if (operation.type === 'SOURCE_COPY' && bytes !== outputBytes)
    throw new EternoError('bad-field', `${what} copies ${bytes} bytes to where ${outputBytes} belong`, {
      file: source.name,
    });
  return bytes;
}

function blobRange(payload: Payload, operation: Operation, what: string): readonly [number, number] {
  const file = payload.source.name;
  if (operation.dataOffset === null) throw new EternoError('bad-field', `${what} has no data`, { file });
  if (operation.dataLength > LIMITS.operationBlobBytes)
    throw new EternoError('too-large', `${what} holds ${operation.dataLength} bytes at once`, { file });
  const start = payload.blobStart + operation.dataOffset;
  const end = start + operation.dataLength;
  if (end > payload.source.size)
    throw new EternoError(
      'truncated',
      `${what}: its data ends at byte ${end}, but the payload has only ${payload.source.size}`,
      {
        file,
        offset: Math.min(start, payload.source.size),
      },
    );
  return [start, end];
}

function refuseOverlaps(taken: Extent[], name: string, file: string): void {
  taken.sort((a, b) => a.startBlock - b.startBlock);
  taken.forEach((extent, i) => {
    const before = taken[i - 1];
    if (before && before.startBlock + before.blockCount > extent.startBlock)
      throw new EternoError('overlap', `${name}: block ${extent.startBlock} is written twice`, { file });
  });
}
