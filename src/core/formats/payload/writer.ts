import { concatBytes } from '../../bytes/bytes';
import { digestBytes } from '../../bytes/digest';
import { EternoError } from '../../errors';
import type { Ports } from '../../ports';
import type { Manifest, Operation, PartitionUpdate } from './layout';
import { manifestBytes, payloadHeaderBytes } from './layout';

/** How a run of blocks is to be stored. */
export interface PlannedRun {
  readonly type: 'REPLACE' | 'REPLACE_XZ' | 'ZERO' | 'DISCARD';
  readonly startBlock: number;
  readonly blockCount: number;
}

export interface PartitionContent {
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly runs: readonly PlannedRun[];
}

export interface WrittenPayload {
  /** Header, manifest, then the blobs; put one after another they are `payload.bin`. */
  readonly parts: readonly Uint8Array[];
  readonly metadataBytes: number;
  readonly metadataSha256: Uint8Array;
}

/**
 * Writes a full payload (types REPLACE, REPLACE_XZ, ZERO, DISCARD), with a hash for every blob and every
 * partition.
 */
export async function writePayload(
  contents: readonly PartitionContent[],
  about: Pick<Manifest, 'blockSize' | 'maxTimestamp' | 'securityPatchLevel'>,
  ports: Ports,
): Promise<WrittenPayload> {
  const { blockSize } = about;
  const blobs: Uint8Array[] = [];
  let blobOffset = 0;
  const partitions: PartitionUpdate[] = [];
  for (const { name, bytes, runs } of contents) {
    if (bytes.length % blockSize !== 0)
      throw new EternoError('bad-field', `${name} is not a whole number of blocks`);
    const operations: Operation[] = [];
    for (const { type, startBlock, blockCount } of runs) {
      const base = {
        type,
        srcExtents: [],
        dstExtents: [{ startBlock, blockCount }],
        srcSha256: null,
      } as const;
      if (type === 'ZERO' || type === 'DISCARD') {
        operations.push({ ...base, dataOffset: null, dataLength: 0, dataSha256: null });
        continue;
      }
      const plain = bytes.subarray(startBlock * blockSize, (startBlock + blockCount) * blockSize);
      const blob = type === 'REPLACE_XZ' ? await ports.codecs.encode('xz', plain) : plain;
      operations.push({
        ...base,
        dataOffset: blobOffset,
        dataLength: blob.length,
        dataSha256: await digestBytes(ports.digests, 'sha256', blob),
      });
      blobs.push(blob);
      blobOffset += blob.length;
    }
    partitions.push({
      name,
      size: bytes.length,
      sha256: await digestBytes(ports.digests, 'sha256', bytes),
      oldSize: null,
      oldSha256: null,
      computesTree: false,
      version: null,
      operations,
    });
  }
  const manifest = manifestBytes({ ...about, minorVersion: 0, partialUpdate: false, partitions });
  const header = payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 });
  const metadata = concatBytes([header, manifest]);
  return {
    parts: [metadata, ...blobs],
    metadataBytes: metadata.length,
    metadataSha256: await digestBytes(ports.digests, 'sha256', metadata),
  };
}
