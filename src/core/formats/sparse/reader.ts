import type { ByteSource } from '../../bytes/byte-source';
import { checkRange, readPieces } from '../../bytes/byte-source';
import { crc32 } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import type { SparseHeader } from './layout';
import { CHUNK, parseChunkHeader, parseSparseHeader, SPARSE_HEADER_BYTES } from './layout';

/** A stretch of the output. Bytes, half-open. */
interface Stretch {
  readonly start: number;
  readonly end: number;
  /** Where its bytes stand in the file, or the four bytes that fill it; null reads as zeros. */
  readonly from: number | Uint8Array | null;
}

export interface SparseImage {
  /** The image as it will lie on the partition, read lazily. */
  readonly output: ByteSource;
  /** What of the output its chunks say; the rest is left as it was. Bytes, half-open, in order. */
  readonly said: readonly { readonly start: number; readonly end: number }[];
  /**
   * What of the output is not zeros, so far as the chunks tell: the rest of a file of this size need not be
   * written.
   */
  readonly filled: readonly { readonly start: number; readonly end: number }[];
  /** @throws {EternoError} `bad-hash` when the header gives a CRC-32 and the output has another */
  checkCrc(signal?: AbortSignal): Promise<void>;
}

/**
 * Reads a sparse image's chunk headers, no data.
 * @throws {EternoError} `truncated`, `bad-field`, `unsupported`, `too-large`
 */
export async function readSparse(source: ByteSource): Promise<SparseImage> {
  const file = source.name;
  const header = parseSparseHeader(await source.read(0, Math.min(source.size, SPARSE_HEADER_BYTES)), file);
  const stretches = await readChunks(source, header);
  const pattern = stretches.reduce(
    (sum, { start, end, from }) => sum + (typeof from !== 'number' && !isZeros(from) ? end - start : 0),
    0,
  );
  if (pattern > LIMITS.sparseFillBytes)
    throw new EternoError('too-large', `a sparse image that repeats four bytes over ${pattern} bytes`, {
      file,
    });
  const size = header.totalBlocks * header.blockBytes;
  const output: ByteSource = {
    name: file,
    size,
    async read(start, end, signal) {
      checkRange({ name: file, size }, start, end);
      const out = new Uint8Array(end - start);
      for (
        let i = firstOverlapping(stretches, start);
        i < stretches.length && stretches[i]!.start < end;
        i += 1
      ) {
        const { start: from, end: to, from: data } = stretches[i]!;
        const [a, b] = [Math.max(start, from), Math.min(end, to)];
        if (data === null) continue;
        if (typeof data === 'number')
          out.set(await source.read(data + a - from, data + b - from, signal), a - start);
        else for (let at = a; at < b; at += 1) out[at - start] = data[(at - from) % 4]!;
      }
      return out;
    },
  };
  return {
    output,
    said: stretches.filter(({ from }) => from !== null).map(({ start, end }) => ({ start, end })),
    filled: stretches.filter(({ from }) => !isZeros(from)).map(({ start, end }) => ({ start, end })),
    async checkCrc(signal) {
      if (header.crc32 === 0) return;
      let sum = 0;
      for await (const piece of readPieces(output, 1 << 20, signal)) sum = crc32(piece, sum);
      if (sum !== header.crc32)
        throw new EternoError('bad-hash', 'the sparse image does not unpack to the CRC-32 it states', {
          file,
          offset: 24,
        });
    },
  };
}

const isZeros = (from: Stretch['from']) =>
  from === null || (typeof from !== 'number' && from.every((byte) => byte === 0));

/** Index of the first stretch that ends behind `at`. */
function firstOverlapping(stretches: readonly Stretch[], at: number): number {
  let [low, high] = [0, stretches.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (stretches[middle]!.end <= at) low = middle + 1;
    else high = middle;
  }
  return low;
}

async function readChunks(source: ByteSource, header: SparseHeader): Promise<Stretch[]> {
  const file = source.name;
  const { blockBytes, chunkHeaderBytes, totalBlocks, totalChunks } = header;
  if (totalChunks > LIMITS.sparseChunks)
    throw new EternoError('too-large', `a sparse image of ${totalChunks} chunks`, { file, offset: 20 });
  const stretches: Stretch[] = [];
  let at = header.headerBytes;
  let blocks = 0;
  for (let i = 0; i < totalChunks; i += 1) {
    const bad = (what: string) =>
      new EternoError('bad-field', `sparse image, chunk ${i}: ${what}`, { file, offset: at });
    if (at + chunkHeaderBytes > source.size)
      throw new EternoError('truncated', `sparse image: chunk ${i} of ${totalChunks} is not there`, {
        file,
        offset: Math.min(at, source.size),
      });
    const { type, blockCount, totalBytes } = parseChunkHeader(
      await source.read(at, at + chunkHeaderBytes),
      file,
      at,
    );
    const dataBytes = totalBytes - chunkHeaderBytes;
    const outputBytes = blockCount * blockBytes;
    const wanted = { [CHUNK.raw]: outputBytes, [CHUNK.fill]: 4, [CHUNK.skip]: 0, [CHUNK.crc]: 4 }[type];
    if (wanted === undefined)
      throw new EternoError('unsupported', `sparse image, chunk ${i}: unknown type ${type.toString(16)}`, {
        file,
        offset: at,
      });
    if (dataBytes !== wanted)
      throw bad(`it says ${totalBytes} bytes where ${chunkHeaderBytes + wanted} belong`);
    const data = at + chunkHeaderBytes;
    if (data + dataBytes > source.size)
      throw new EternoError('truncated', `sparse image: the data of chunk ${i} is cut off`, {
        file,
        offset: Math.min(data, source.size),
      });
    if (type === CHUNK.crc ? blockCount !== 0 : blocks + blockCount > totalBlocks)
      throw bad('more blocks than the image has');
    if (type !== CHUNK.crc) {
      const from = type === CHUNK.raw ? data : type === CHUNK.fill ? await source.read(data, data + 4) : null;
      stretches.push({ start: blocks * blockBytes, end: (blocks + blockCount) * blockBytes, from });
      blocks += blockCount;
    }
    at = data + dataBytes;
  }
  if (blocks !== totalBlocks)
    throw new EternoError(
      'bad-field',
      `sparse image: its chunks hold ${blocks} blocks, the header says ${totalBlocks}`,
      { file, offset: 16 },
    );
  return stretches;
}
