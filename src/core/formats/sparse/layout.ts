import { ByteCursor } from '../../bytes/byte-cursor';
import { ByteWriter } from '../../bytes/byte-writer';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/* Sparse image (docs/formats.md, "Sparse image"). Pure layouts. All fields LE. */

export const SPARSE_MAGIC = 0xed26ff3a;
export const SPARSE_HEADER_BYTES = 28;
export const CHUNK_HEADER_BYTES = 12;
export const CHUNK = { raw: 0xcac1, fill: 0xcac2, skip: 0xcac3, crc: 0xcac4 } as const;

export interface SparseHeader {
  /** May be larger than 28 and 12; what is more is passed over. */
  readonly headerBytes: number;
  readonly chunkHeaderBytes: number;
  readonly blockBytes: number;
  readonly totalBlocks: number;
  readonly totalChunks: number;
  /** CRC-32 of the whole output; 0 where not given. */
  readonly crc32: number;
}

const bad = (what: string, file: string, offset: number) =>
  new EternoError('bad-field', `sparse image: ${what}`, { file, offset });

export function isSparse(bytes: Uint8Array): boolean {
  return (
    bytes.length >= 4 && new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true) === SPARSE_MAGIC
  );
}

/** @throws {EternoError} `truncated`, `bad-magic`, `unsupported` version, `bad-field`, `too-large` */
export function parseSparseHeader(bytes: Uint8Array, file: string): SparseHeader {
  const cursor = new ByteCursor(bytes, 0, file);
  if (cursor.u32le() !== SPARSE_MAGIC)
    throw new EternoError('bad-magic', 'this is no sparse image', { file, offset: 0 });
  const major = cursor.u16le();
  cursor.u16le();
  if (major !== 1)
    throw new EternoError('unsupported', `sparse image version ${major}; version 1 can be read`, {
      file,
      offset: 4,
    });
  const headerBytes = cursor.u16le();
  const chunkHeaderBytes = cursor.u16le();
  if (headerBytes < SPARSE_HEADER_BYTES || chunkHeaderBytes < CHUNK_HEADER_BYTES)
    throw bad('a header size is too small', file, 8);
  const header = {
    headerBytes,
    chunkHeaderBytes,
    blockBytes: cursor.u32le(),
    totalBlocks: cursor.u32le(),
    totalChunks: cursor.u32le(),
    crc32: cursor.u32le(),
  };
  if (header.blockBytes === 0 || header.blockBytes % 4 !== 0)
    throw bad(`blocks of ${header.blockBytes} bytes`, file, 12);
  if (header.blockBytes * header.totalBlocks > LIMITS.partitionBytes)
    throw new EternoError(
      'too-large',
      `a sparse image of ${header.totalBlocks} blocks of ${header.blockBytes} bytes`,
      { file, offset: 16 },
    );
  return header;
}

export interface ChunkHeader {
  readonly type: number;
  readonly blockCount: number;
  /** With its own header. */
  readonly totalBytes: number;
}

export function parseChunkHeader(bytes: Uint8Array, file: string, base: number): ChunkHeader {
  const cursor = new ByteCursor(bytes, 0, file, base);
  const type = cursor.u16le();
  cursor.u16le();
  return { type, blockCount: cursor.u32le(), totalBytes: cursor.u32le() };
}

export function sparseHeaderBytes(
  header: Pick<SparseHeader, 'blockBytes' | 'totalBlocks' | 'totalChunks' | 'crc32'>,
): Uint8Array<ArrayBuffer> {
  const out = new ByteWriter(SPARSE_HEADER_BYTES)
    .u32le(SPARSE_MAGIC)
    .u16le(1)
    .u16le(0)
    .u16le(SPARSE_HEADER_BYTES)
    .u16le(CHUNK_HEADER_BYTES);
  return out
    .u32le(header.blockBytes)
    .u32le(header.totalBlocks)
    .u32le(header.totalChunks)
    .u32le(header.crc32)
    .finish();
}

export function chunkHeaderBytes(
  type: number,
  blockCount: number,
  dataBytes: number,
): Uint8Array<ArrayBuffer> {
  return new ByteWriter(CHUNK_HEADER_BYTES)
    .u16le(type)
    .u16le(0)
    .u32le(blockCount)
    .u32le(CHUNK_HEADER_BYTES + dataBytes)
    .finish();
}
