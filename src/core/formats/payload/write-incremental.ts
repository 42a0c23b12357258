import { concatBytes, equalBytes, isZero } from '../../bytes/bytes';
import { digestBytes } from '../../bytes/digest';
import { EternoError } from '../../errors';
import type { Ports } from '../../ports';
import type { Manifest, Operation, PartitionUpdate } from './layout';
import { manifestBytes, payloadHeaderBytes } from './layout';
import type { WrittenPayload } from './writer';

/** One partition, before and after; both a whole number of blocks, equally long. */
export interface ChangedPartition {
  readonly name: string;
  readonly old: Uint8Array;
  readonly fresh: Uint8Array;
  /** Blocks an operation covers. */
  readonly runBlocks: number;
}

/** Makes a binary patch of old and new bytes; given by the caller, because a format knows no other. */
export type MakePatch = (old: Uint8Array, fresh: Uint8Array) => Uint8Array;

/** A patch may take this share of the blocks it makes; a plain packed blob is taken beyond it. */
const PATCH_SHARE = 0.5;

/**
 * Writes an incremental payload: run by run copied from the old image, zeroed, patched with brotli streams,
 * or packed anew, whichever is shortest, with a hash for every source, blob and partition. For demo packages
 * and tests; the runs are not searched for moved content.
 */
export async function writeIncrementalPayload(
  contents: readonly ChangedPartition[],
  about: Pick<Manifest, 'blockSize' | 'maxTimestamp' | 'securityPatchLevel'>,
  makePatch: MakePatch,
  ports: Ports,
): Promise<WrittenPayload> {
  const { blockSize } = about;
  const blobs: Uint8Array[] = [];
  let blobOffset = 0;
  const sha256 = (bytes: Uint8Array) => digestBytes(ports.digests, 'sha256', bytes);
  const store = async (type: Operation['type'], blob: Uint8Array) => {
    const stored = { type, dataOffset: blobOffset, dataLength: blob.length, dataSha256: await sha256(blob) };
    blobs.push(blob);
    blobOffset += blob.length;
    return stored;
  };
  const partitions: PartitionUpdate[] = [];
  for (const { name, old, fresh, runBlocks } of contents) {
    if (old.length !== fresh.length || old.length % blockSize !== 0)
      throw new EternoError('bad-field', `${name} changes its size`);
    const operations: Operation[] = [];
    for (let startBlock = 0; startBlock * blockSize < fresh.length; startBlock += runBlocks) {
      const blockCount = Math.min(runBlocks, fresh.length / blockSize - startBlock);
      const [from, to] = [startBlock * blockSize, (startBlock + blockCount) * blockSize];
      const [before, after] = [old.subarray(from, to), fresh.subarray(from, to)];
      const extents = [{ startBlock, blockCount }];
      const plain = {
        dataOffset: null,
        dataLength: 0,
        srcExtents: [],
        dstExtents: extents,
        dataSha256: null,
        srcSha256: null,
      };
      const sourced = { ...plain, srcExtents: extents, srcSha256: await sha256(before) };
      if (isZero(after)) operations.push({ ...plain, type: 'ZERO' });
      else if (equalBytes(before, after)) operations.push({ ...sourced, type: 'SOURCE_COPY' });
      else {
        const patch = makePatch(before, after);
        if (patch.length < after.length * PATCH_SHARE)
          operations.push({ ...sourced, ...(await store('BROTLI_BSDIFF', patch)) });
        else
          operations.push({
            ...plain,
            ...(await store('REPLACE_XZ', await ports.codecs.encode('xz', after))),
          });
      }
    }
    const [size, oldSize] = [fresh.length, old.length];
    partitions.push({
      name,
      size,
      sha256: await sha256(fresh),
      oldSize,
      oldSha256: await sha256(old),
      computesTree: false,
      version: null,
      operations,
    });
  }
  const manifest = manifestBytes({ ...about, minorVersion: 6, partialUpdate: false, partitions });
  const metadata = concatBytes([
    payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 }),
    manifest,
  ]);
  return {
    parts: [metadata, ...blobs],
    metadataBytes: metadata.length,
    metadataSha256: await sha256(metadata),
  };
}
