import Long from 'long';
import protobuf from 'protobufjs/minimal';
import { ByteCursor } from '../../bytes/byte-cursor';
import { ByteWriter } from '../../bytes/byte-writer';
import { latin1, startsWith } from '../../bytes/bytes';
import { EternoError, toEternoError } from '../../errors';
import { LIMITS } from '../../limits';

/* Update payload (docs/formats.md, "Update payload"). Header BE, manifest protobuf. */

protobuf.util.Long = Long as never;
protobuf.configure();

export const PAYLOAD_MAGIC = latin1('CrAU');
export const PAYLOAD_HEADER_BYTES = 24;

export interface PayloadHeader {
  readonly manifestSize: number;
  readonly metadataSignatureSize: number;
}

/** @throws {EternoError} `bad-magic`, `truncated`, `unsupported` version, `too-large` manifest */
export function parsePayloadHeader(bytes: Uint8Array, file: string): PayloadHeader {
  if (bytes.length < PAYLOAD_HEADER_BYTES)
    throw new EternoError('truncated', 'the payload header is cut off', { file, offset: bytes.length });
  if (!startsWith(bytes, PAYLOAD_MAGIC))
    throw new EternoError('bad-magic', 'the payload does not begin with its magic', { file, offset: 0 });
  const cursor = new ByteCursor(bytes, 4, file);
  const version = cursor.u64be();
  if (version !== 2)
    throw new EternoError('unsupported', `payload version ${version}; version 2 can be read`, {
      file,
      offset: 4,
    });
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const manifestBig = view.getBigUint64(12);
  if (manifestBig > BigInt(LIMITS.manifestBytes))
    throw new EternoError('too-large', `a manifest of ${manifestBig} bytes`, { file, offset: 12 });
  if (manifestBig === 0n)
    throw new EternoError('truncated', 'the payload has an empty manifest', { file, offset: 12 });
  return { manifestSize: Number(manifestBig), metadataSignatureSize: view.getUint32(20) };
}

export function payloadHeaderBytes(header: PayloadHeader): Uint8Array<ArrayBuffer> {
  return new ByteWriter(PAYLOAD_HEADER_BYTES)
    .bytes(PAYLOAD_MAGIC)
    .u64be(2)
    .u64be(header.manifestSize)
    .u32be(header.metadataSignatureSize)
    .finish();
}

export const OPERATION_NAMES = [
  'REPLACE',
  'REPLACE_BZ',
  'MOVE',
  'BSDIFF',
  'SOURCE_COPY',
  'SOURCE_BSDIFF',
  'ZERO',
  'DISCARD',
  'REPLACE_XZ',
  'PUFFDIFF',
  'BROTLI_BSDIFF',
  'ZUCCHINI',
  'LZ4DIFF_BSDIFF',
  'LZ4DIFF_PUFFDIFF',
  'REPLACE_ZSTD',
] as const;
export type OperationName = (typeof OPERATION_NAMES)[number];
/**
 * A type that came after this was written keeps its number, so that the partitions without it can still be
 * read.
 */
export type OperationType = OperationName | `TYPE_${number}`;

/** In blocks of the manifest's block size. */
export interface Extent {
  readonly startBlock: number;
  readonly blockCount: number;
}

export interface Operation {
  readonly type: OperationType;
  /** Bytes from the first byte after the metadata signature; null where the operation has no blob. */
  readonly dataOffset: number | null;
  readonly dataLength: number;
  /** Blocks of the old partition that the operation reads; empty in full payloads. */
  readonly srcExtents: readonly Extent[];
  readonly dstExtents: readonly Extent[];
  readonly dataSha256: Uint8Array | null;
  /** Of the bytes read from the old partition. */
  readonly srcSha256: Uint8Array | null;
}

export interface PartitionUpdate {
  readonly name: string;
  readonly size: number | null;
  readonly sha256: Uint8Array | null;
  /** The partition that an incremental payload starts from. */
  readonly oldSize: number | null;
  readonly oldSha256: Uint8Array | null;
  /**
   * Whether the payload wants a hash tree or error-correcting data computed on the handset, as for large file
   * systems.
   */
  readonly computesTree: boolean;
  readonly version: string | null;
  readonly operations: readonly Operation[];
}

export interface Manifest {
  readonly blockSize: number;
  readonly minorVersion: number;
  readonly maxTimestamp: number | null;
  readonly partialUpdate: boolean;
  readonly securityPatchLevel: string | null;
  readonly partitions: readonly PartitionUpdate[];
}

/**
 * @param base offset of the manifest in the payload
 * @throws {EternoError} `truncated`, `bad-field`, `too-large`
 */
export function parseManifest(bytes: Uint8Array, file: string, base = PAYLOAD_HEADER_BYTES): Manifest {
  const reader = protobuf.Reader.create(bytes);
  try {
    return readManifest(reader);
  } catch (thrown) {
    if (thrown instanceof EternoError)
      throw new EternoError(thrown.code, thrown.message, { file, offset: base + reader.pos, cause: thrown });
    const message = toEternoError(thrown).message;
    const code = /index out of range/i.test(message) ? 'truncated' : 'bad-field';
    throw new EternoError(code, `the manifest can't be read: ${message}`, {
      file,
      offset: base + reader.pos,
      cause: thrown,
    });
  }
}

const bad = (what: string) => new EternoError('bad-field', `manifest: ${what}`);

function safe(value: unknown): number {
  const n = typeof value === 'number' ? value : (value as Long).toNumber();
  if (!Number.isSafeInteger(n) || n < 0)
    throw bad(`the number ${String(value)} is beyond what any file holds`);
  return n;
}

type Read = ReturnType<typeof protobuf.Reader.create>;

/** Calls `field` for every field up to `end`; a field that returns false is skipped over. */
function eachField(reader: Read, end: number, field: (number: number, wireType: number) => boolean): void {
  while (reader.pos < end) {
    const tag = reader.uint32();
    if (tag >>> 3 === 0) throw bad('a field has number 0');
    if (!field(tag >>> 3, tag & 7)) reader.skipType(tag & 7);
  }
  if (reader.pos !== end)
    throw new EternoError('truncated', 'manifest: a field runs past the end of its message');
}

/** Where the message that starts here ends. */
function messageEnd(reader: Read, parentEnd: number): number {
  const length = reader.uint32();
  const end = reader.pos + length;
  if (end > parentEnd) throw new EternoError('truncated', 'manifest: a message runs past the end');
  return end;
}

function readManifest(reader: Read): Manifest {
  const out = {
    blockSize: 4096,
    minorVersion: 0,
    maxTimestamp: null as number | null,
    partialUpdate: false,
    securityPatchLevel: null as string | null,
    partitions: [] as PartitionUpdate[],
  };
  const end = reader.len;
  eachField(reader, end, (number, wire) => {
    if (number === 3 && wire === 0) out.blockSize = reader.uint32();
    else if (number === 12 && wire === 0) out.minorVersion = reader.uint32();
    else if (number === 14 && wire === 0) out.maxTimestamp = Number(reader.int64().toString());
    else if (number === 16 && wire === 0) out.partialUpdate = reader.bool();
    else if (number === 18 && wire === 2) out.securityPatchLevel = reader.string();
    else if (number === 13 && wire === 2) {
      if (out.partitions.length >= LIMITS.partitions)
        throw new EternoError('too-large', `more than ${LIMITS.partitions} partitions`);
      out.partitions.push(readPartition(reader, messageEnd(reader, end)));
    } else return false;
    return true;
  });
  if (out.blockSize < 512 || out.blockSize > 1 << 20 || (out.blockSize & (out.blockSize - 1)) !== 0)
    throw bad(`block size ${out.blockSize}`);
  return out;
}

/** Partition fields that describe hash trees and error-correcting data. */
const TREE_FIELDS = [10, 16] as const;

function readPartition(reader: Read, end: number): PartitionUpdate {
  let name: string | null = null;
  let version: string | null = null;
  let info = { size: null as number | null, sha256: null as Uint8Array | null };
  let old = info;
  let computesTree = false;
  const operations: Operation[] = [];
  eachField(reader, end, (number, wire) => {
    if (number >= TREE_FIELDS[0] && number <= TREE_FIELDS[1]) computesTree = true;
    if (wire !== 2) return false;
    if (number === 1) name = reader.string();
    else if (number === 6) old = readInfo(reader, messageEnd(reader, end));
    else if (number === 7) info = readInfo(reader, messageEnd(reader, end));
    else if (number === 8) {
      if (operations.length >= LIMITS.operationsPerPartition)
        throw new EternoError('too-large', 'a partition lists too many operations');
      operations.push(readOperation(reader, messageEnd(reader, end)));
    } else if (number === 17) version = reader.string();
    else return false;
    return true;
  });
  if (name === null || name === '') throw bad('a partition has no name');
  return { name, version, ...info, oldSize: old.size, oldSha256: old.sha256, computesTree, operations };
}

function readInfo(reader: Read, end: number): { size: number | null; sha256: Uint8Array | null } {
  const out = { size: null as number | null, sha256: null as Uint8Array | null };
  eachField(reader, end, (number, wire) => {
    if (number === 1 && wire === 0) out.size = safe(reader.uint64());
    else if (number === 2 && wire === 2) out.sha256 = reader.bytes().slice();
    else return false;
    return true;
  });
  if (out.sha256 && out.sha256.length !== 32) throw bad('a partition hash is not 32 bytes long');
  return out;
}

function readOperation(reader: Read, end: number): Operation {
  let type: OperationType | null = null;
  let dataOffset: number | null = null;
  let dataLength = 0;
  let dataSha256: Uint8Array | null = null;
  let srcSha256: Uint8Array | null = null;
  const srcExtents: Extent[] = [];
  const dstExtents: Extent[] = [];
  eachField(reader, end, (number, wire) => {
    if (number === 1 && wire === 0) {
      const value = reader.uint32();
      type = OPERATION_NAMES[value] ?? `TYPE_${value}`;
    } else if (number === 2 && wire === 0) dataOffset = safe(reader.uint64());
    else if (number === 3 && wire === 0) dataLength = safe(reader.uint64());
    else if (number === 4 && wire === 2) srcExtents.push(readExtent(reader, messageEnd(reader, end)));
    else if (number === 6 && wire === 2) dstExtents.push(readExtent(reader, messageEnd(reader, end)));
    else if (number === 8 && wire === 2) dataSha256 = reader.bytes().slice();
    else if (number === 9 && wire === 2) srcSha256 = reader.bytes().slice();
    else return false;
    return true;
  });
  if (type === null) throw bad('an operation has no type');
  return { type, dataOffset, dataLength, srcExtents, dstExtents, dataSha256, srcSha256 };
}

function readExtent(reader: Read, end: number): Extent {
  let startBlock = 0;
  let blockCount = 0;
  eachField(reader, end, (number, wire) => {
    if (wire !== 0) return false;
    if (number === 1) startBlock = safe(reader.uint64());
    else if (number === 2) blockCount = safe(reader.uint64());
    else return false;
    return true;
  });
  return { startBlock, blockCount };
}

type Written = ReturnType<typeof protobuf.Writer.create>;
const wide = (value: number) => Long.fromNumber(value, true);
const numberTag = (field: number) => field << 3;
const bytesTag = (field: number) => (field << 3) | 2;

function writeInfo(writer: Written, field: number, size: number, sha256: Uint8Array): void {
  writer.uint32(bytesTag(field)).fork();
  writer.uint32(numberTag(1)).uint64(wide(size)).uint32(bytesTag(2)).bytes(sha256).ldelim();
}

function writeExtents(writer: Written, field: number, extents: readonly Extent[]): void {
  for (const { startBlock, blockCount } of extents) {
    writer.uint32(bytesTag(field)).fork();
    writer
      .uint32(numberTag(1))
      .uint64(wide(startBlock))
      .uint32(numberTag(2))
      .uint64(wide(blockCount))
      .ldelim();
  }
}

const typeNumber = (type: OperationType) =>
  type.startsWith('TYPE_') ? Number(type.slice(5)) : (OPERATION_NAMES as readonly string[]).indexOf(type);

function writeOperation(writer: Written, operation: Operation): void {
  writer.uint32(bytesTag(8)).fork();
  writer.uint32(numberTag(1)).uint32(typeNumber(operation.type));
  if (operation.dataOffset !== null)
    writer
      .uint32(numberTag(2))
      .uint64(wide(operation.dataOffset))
      .uint32(numberTag(3))
      .uint64(wide(operation.dataLength));
  writeExtents(writer, 4, operation.srcExtents);
  writeExtents(writer, 6, operation.dstExtents);
  if (operation.dataSha256) writer.uint32(bytesTag(8)).bytes(operation.dataSha256);
  if (operation.srcSha256) writer.uint32(bytesTag(9)).bytes(operation.srcSha256);
  writer.ldelim();
}

/** The manifest of a payload as protobuf bytes. */
export function manifestBytes(manifest: Manifest): Uint8Array<ArrayBuffer> {
  const writer = protobuf.Writer.create();
  writer.uint32(numberTag(3)).uint32(manifest.blockSize).uint32(numberTag(12)).uint32(manifest.minorVersion);
  for (const partition of manifest.partitions) {
    writer.uint32(bytesTag(13)).fork();
    writer.uint32(bytesTag(1)).string(partition.name);
    if (partition.oldSize !== null && partition.oldSha256)
      writeInfo(writer, 6, partition.oldSize, partition.oldSha256);
    if (partition.size !== null && partition.sha256) writeInfo(writer, 7, partition.size, partition.sha256);
    for (const operation of partition.operations) writeOperation(writer, operation);
    if (partition.version !== null) writer.uint32(bytesTag(17)).string(partition.version);
    writer.ldelim();
  }
  if (manifest.maxTimestamp !== null)
    writer.uint32(numberTag(14)).int64(Long.fromNumber(manifest.maxTimestamp));
  if (manifest.partialUpdate) writer.uint32(numberTag(16)).bool(true);
  if (manifest.securityPatchLevel !== null) writer.uint32(bytesTag(18)).string(manifest.securityPatchLevel);
  return new Uint8Array(writer.finish());
}
