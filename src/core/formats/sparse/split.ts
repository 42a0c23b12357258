import type { ByteSource } from '../../bytes/byte-source';
import { ByteWriter } from '../../bytes/byte-writer';
import { alignUp } from '../../bytes/bytes';
import { EternoError, throwIfAborted } from '../../errors';
import { CHUNK, chunkHeaderBytes, sparseHeaderBytes } from './layout';

const BLOCK_BYTES = 4096;
/** The header and three chunks' heads. */
const OVERHEAD_BYTES =
  sparseHeaderBytes({ blockBytes: BLOCK_BYTES, totalBlocks: 0, totalChunks: 0, crc32: 0 }).length +
  3 * chunkHeaderBytes(CHUNK.skip, 0, 0).length;

/**
 * An image in several sparse ones, none longer than `mostBytes`: each says a stretch of it and leaves the
 * rest as it was, so that written one after another they make the whole. A last block that is not whole is
 * filled up with zeros (docs/formats.md, "Sparse images").
 * @throws {EternoError} `usage` where not even one block fits
 */
export async function* splitSparse(
  source: ByteSource,
  mostBytes: number,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  const blocksEach = Math.floor((mostBytes - OVERHEAD_BYTES) / BLOCK_BYTES);
  if (blocksEach < 1)
    throw new EternoError('usage', `${mostBytes} bytes at once are too few for a part of an image`, {
      file: source.name,
    });
  const totalBlocks = alignUp(source.size, BLOCK_BYTES) / BLOCK_BYTES;
  for (let first = 0; first < totalBlocks; first += blocksEach) {
    throwIfAborted(signal);
    const count = Math.min(blocksEach, totalBlocks - first);
    const rest = totalBlocks - first - count;
    const data = new Uint8Array(count * BLOCK_BYTES);
    data.set(
      await source.read(first * BLOCK_BYTES, Math.min(source.size, (first + count) * BLOCK_BYTES), signal),
    );
    const writer = new ByteWriter(OVERHEAD_BYTES + data.length);
    writer.bytes(
      sparseHeaderBytes({
        blockBytes: BLOCK_BYTES,
        totalBlocks,
        totalChunks: 1 + Number(first > 0) + Number(rest > 0),
        crc32: 0,
      }),
    );
    if (first > 0) writer.bytes(chunkHeaderBytes(CHUNK.skip, first, 0));
    writer.bytes(chunkHeaderBytes(CHUNK.raw, count, data.length)).bytes(data);
    if (rest > 0) writer.bytes(chunkHeaderBytes(CHUNK.skip, rest, 0));
    yield writer.finish();
  }
}
