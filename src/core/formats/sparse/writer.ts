import type { ByteSource } from '../../bytes/byte-source';
import { alignUp, crc32 } from '../../bytes/bytes';
import { throwIfAborted } from '../../errors';
import { CHUNK, chunkHeaderBytes, sparseHeaderBytes } from './layout';

const BLOCK_BYTES = 4096;

/** Four bytes that fill a whole block, or null where it holds more than that. */
function fillOf(block: Uint8Array): number | null {
  const view = new DataView(block.buffer, block.byteOffset, block.byteLength);
  const word = view.getUint32(0, true);
  for (let at = 4; at < block.length; at += 4) if (view.getUint32(at, true) !== word) return null;
  return word;
}

interface Run {
  readonly fill: number | null;
  readonly startBlock: number;
  blockCount: number;
}

/** Blocks of the source, runs of one fill or of raw data joined, and the CRC-32 of all of it. */
async function planRuns(
  source: ByteSource,
  signal?: AbortSignal,
): Promise<{ runs: Run[]; crc: number; totalBlocks: number }> {
  const runs: Run[] = [];
  const totalBlocks = alignUp(source.size, BLOCK_BYTES) / BLOCK_BYTES;
  let crc = 0;
  for (let index = 0; index < totalBlocks; index += 1) {
    throwIfAborted(signal);
    const block = await blockAt(source, index);
    crc = crc32(block, crc);
    const fill = fillOf(block);
    const last = runs.at(-1);
    if (last && last.fill === fill) last.blockCount += 1;
    else runs.push({ fill, startBlock: index, blockCount: 1 });
  }
  return { runs, crc, totalBlocks };
}

async function blockAt(source: ByteSource, index: number): Promise<Uint8Array> {
  const bytes = await source.read(index * BLOCK_BYTES, Math.min(source.size, (index + 1) * BLOCK_BYTES));
  if (bytes.length === BLOCK_BYTES) return bytes;
  const whole = new Uint8Array(BLOCK_BYTES);
  whole.set(bytes);
  return whole;
}

/**
 * Writes an image as a sparse one, in blocks of 4,096 bytes with a CRC-32; zeros become fill chunks. A last
 * block that is not whole is filled up with zeros.
 */
export async function writeSparse(
  source: ByteSource,
  write: (bytes: Uint8Array) => Promise<void>,
  signal?: AbortSignal,
): Promise<void> {
  const { runs, crc, totalBlocks } = await planRuns(source, signal);
  await write(
    sparseHeaderBytes({ blockBytes: BLOCK_BYTES, totalBlocks, totalChunks: runs.length, crc32: crc }),
  );
  for (const { fill, startBlock, blockCount } of runs) {
    throwIfAborted(signal);
    if (fill !== null) {
      await write(chunkHeaderBytes(CHUNK.fill, blockCount, 4));
      await write(Uint8Array.of(fill & 255, (fill >>> 8) & 255, (fill >>> 16) & 255, fill >>> 24));
      continue;
    }
    await write(chunkHeaderBytes(CHUNK.raw, blockCount, blockCount * BLOCK_BYTES));
    for (let i = 0; i < blockCount; i += 1) await write(await blockAt(source, startBlock + i));
  }
}
