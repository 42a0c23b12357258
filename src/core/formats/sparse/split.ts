import type { ByteSource } from '../../bytes/byte-source';
import { checkRange } from '../../bytes/byte-source';
import { alignUp, concatBytes } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { CHUNK, chunkHeaderBytes, sparseHeaderBytes } from './layout';

const BLOCK_BYTES = 4096;
/** The header and three chunks' heads. */
const OVERHEAD_BYTES =
  sparseHeaderBytes({ blockBytes: BLOCK_BYTES, totalBlocks: 0, totalChunks: 0, crc32: 0 }).length +
  3 * chunkHeaderBytes(CHUNK.skip, 0, 0).length;

/**
 * An image in several sparse ones, none longer than `mostBytes`: each says a stretch of it and leaves the
 * rest as it was, so that written one after another they make the whole. A last block that is not whole is
 * filled up with zeros (docs/formats.md, "Sparse images"). Each reads through to the image: nothing of it is
 * held in memory.
 * @throws {EternoError} `usage` where not even one block fits
 */
export function splitSparse(source: ByteSource, mostBytes: number): ByteSource[] {
  const blocksEach = Math.floor((mostBytes - OVERHEAD_BYTES) / BLOCK_BYTES);
  if (blocksEach < 1)
    throw new EternoError('usage', `${mostBytes} bytes at once are too few for a part of an image`, {
      file: source.name,
    });
  const totalBlocks = alignUp(source.size, BLOCK_BYTES) / BLOCK_BYTES;
  const parts: ByteSource[] = [];
  for (let first = 0; first < totalBlocks; first += blocksEach)
    parts.push(sparsePart(source, totalBlocks, first, Math.min(blocksEach, totalBlocks - first)));
  return parts;
}

/** The sparse image that says `count` blocks from `first` on. */
function sparsePart(source: ByteSource, totalBlocks: number, first: number, count: number): ByteSource {
  const rest = totalBlocks - first - count;
  const dataBytes = count * BLOCK_BYTES;
  const head = concatBytes([
    sparseHeaderBytes({
      blockBytes: BLOCK_BYTES,
      totalBlocks,
      totalChunks: 1 + Number(first > 0) + Number(rest > 0),
      crc32: 0,
    }),
    ...(first > 0 ? [chunkHeaderBytes(CHUNK.skip, first, 0)] : []),
    chunkHeaderBytes(CHUNK.raw, count, dataBytes),
  ]);
  const tail = rest > 0 ? chunkHeaderBytes(CHUNK.skip, rest, 0) : new Uint8Array(0);
  const size = head.length + dataBytes + tail.length;
  const { name } = source;
  return {
    name,
    size,
    async read(start, end, signal) {
      checkRange({ name, size }, start, end);
      const out = new Uint8Array(end - start);
      const lay = (bytes: Uint8Array, at: number) => {
        const [from, to] = [Math.max(start, at), Math.min(end, at + bytes.length)];
        if (from < to) out.set(bytes.subarray(from - at, to - at), from - start);
      };
      lay(head, 0);
      lay(tail, head.length + dataBytes);
      // of the image as far as it goes; what is missing of the last block stays zeros
      const toImage = first * BLOCK_BYTES - head.length;
      const from = Math.max(start, head.length) + toImage;
      const to = Math.min(end + toImage, first * BLOCK_BYTES + dataBytes, source.size);
      if (from < to) out.set(await source.read(from, to, signal), from - toImage - start);
      return out;
    },
  };
}
