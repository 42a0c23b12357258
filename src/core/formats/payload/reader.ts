import type { ByteSource } from '../../bytes/byte-source';
import { digestBytes } from '../../bytes/digest';
import { EternoError } from '../../errors';
import type { Ports } from '../../ports';
import type { Manifest, PartitionUpdate } from './layout';
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
    throw new EternoError('truncated', 'the manifest and its signature run past the end of the payload', {
      file: source.name,
      offset: 12,
    });
  const manifest = await source.read(PAYLOAD_HEADER_BYTES, manifestEnd);
  return {
    source,
    manifest: parseManifest(manifest, source.name),
    blobStart,
    metadataSha256: await digestBytes(ports.digests, 'sha256', head, manifest),
    metadataBytes: manifestEnd,
  };
}

export function findPartition(payload: Payload, name: string): PartitionUpdate {
  const found = payload.manifest.partitions.filter((partition) => partition.name === name);
  if (found.length === 0)
    throw new EternoError('not-found', `the payload has no partition "${name}"`, {
      file: payload.source.name,
    });
  if (found.length > 1)
    throw new EternoError('duplicate', `the payload lists the partition "${name}" ${found.length} times`, {
      file: payload.source.name,
    });
  return found[0]!;
}

/** A partition's size as stated, else up to the last block that its operations write. */
export function partitionBytes(partition: PartitionUpdate, blockSize: number): number {
  if (partition.size !== null) return partition.size;
  let end = 0;
  for (const operation of partition.operations) {
    for (const { startBlock, blockCount } of operation.dstExtents)
      end = Math.max(end, (startBlock + blockCount) * blockSize);
  }
  return end;
}

/** Bytes of blobs that taking a partition out reads. */
export function blobBytesOf(partition: PartitionUpdate): number {
  return partition.operations.reduce((sum, operation) => sum + operation.dataLength, 0);
}
