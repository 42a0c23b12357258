import { EternoError } from '../errors';
import { concatBytes, startsWith } from '../bytes/bytes';
import type { Decoded } from './codec';
import { guessCompression } from './codec';
import { decodeLz4Block, encodeLz4Block } from './lz4-block';

/**
 * Legacy framing (docs/formats.md, "Compressed streams"): magic, then blocks of u32 LE size + block, each at
 * most 8 MiB unpacked.
 */
export const LZ4_LEGACY_MAGIC = Uint8Array.of(0x02, 0x21, 0x4c, 0x18);
export const LZ4_LEGACY_BLOCK_BYTES = 8 * 1024 * 1024;
/** A block that does not compress grows by at most this: one byte in 255 and a few. */
const WORST_BLOCK_BYTES = LZ4_LEGACY_BLOCK_BYTES + Math.ceil(LZ4_LEGACY_BLOCK_BYTES / 255) + 16;

/** Every block but the last is full, so this is far more than any image holds. */
const MOST_BLOCKS = 4096;

const u32 = (bytes: Uint8Array, at: number) =>
  (bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24)) >>> 0;

const DEVICE_TREE_MAGIC = Uint8Array.of(0xd0, 0x0d, 0xfe, 0xed);
/** Kernels come with device trees behind them. */
const isDeviceTree = (input: Uint8Array, at: number) => startsWith(input.subarray(at), DEVICE_TREE_MAGIC);

/**
 * Where the blocks of a stream end: before a u32 that repeats the whole size.
 * @param consumed bytes of the stream, as `decodeLz4Legacy` gives them
 */
export function lz4LegacyBlocksEnd(input: Uint8Array, consumed: number): number {
  let at = 4;
  while (at + 4 < consumed) at += 4 + u32(input, at);
  return at;
}

/**
 * The stream ends at the end of the data, at another stream's magic, at a device tree, or at a zero size. A u32
 * behind the last block that repeats the whole size, which some writers append, is taken as part of it.
 * @throws {EternoError} `truncated`, `corrupt`, `too-large`; offsets count in `input`
 */
export function decodeLz4Legacy(input: Uint8Array, limitBytes: number): Decoded {
  const blocks: Uint8Array[] = [];
  let total = 0;
  let at = 4;
  while (at + 4 <= input.length) {
    const size = u32(input, at);
    if (size === 0) break;
    if (blocks.length >= MOST_BLOCKS)
      throw new EternoError('too-large', `an lz4 stream of more than ${MOST_BLOCKS} blocks`, { offset: at });
    if (size === total && (at + 4 === input.length || isDeviceTree(input, at + 4))) {
      at += 4;
      break;
    }
    if (size > WORST_BLOCK_BYTES) {
      if (guessCompression(input, at) !== null || isDeviceTree(input, at)) break;
      throw new EternoError('corrupt', `an lz4 block claims ${size} packed bytes`, { offset: at });
    }
    if (at + 4 + size > input.length)
      throw new EternoError('truncated', `an lz4 block of ${size} bytes is cut off`, { offset: at });
    const block = unpackBlock(
      input.subarray(at + 4, at + 4 + size),
      Math.min(LZ4_LEGACY_BLOCK_BYTES, limitBytes - total),
      at + 4,
    );
    blocks.push(block);
    total += block.length;
    at += 4 + size;
  }
  if (at < input.length && at + 4 > input.length && input.subarray(at).some((byte) => byte !== 0)) {
    throw new EternoError('truncated', 'an lz4 block size is cut off', { offset: at });
  }
  return { bytes: concatBytes(blocks), consumed: Math.min(at, input.length) };
}

function unpackBlock(packed: Uint8Array, limitBytes: number, base: number): Uint8Array {
  try {
    return decodeLz4Block(packed, limitBytes);
  } catch (thrown) {
    const error = thrown as EternoError;
    throw new EternoError(error.code, error.message, { offset: base + (error.offset ?? 0), cause: thrown });
  }
}

/**
 * Where the stream's blocks stand, sizes included, and where it ends, without unpacking; null where only
 * unpacking can tell, or something is wrong that the reader has to say.
 */
export function lz4LegacyBlocks(
  input: Uint8Array,
): { readonly blocks: readonly Uint8Array[]; readonly end: number } | null {
  const blocks: Uint8Array[] = [];
  let at = 4;
  while (at + 4 <= input.length) {
    const size = u32(input, at);
    if (size === 0) return { blocks, end: at };
    if (size > WORST_BLOCK_BYTES || at + 4 + size > input.length) return null;
    blocks.push(input.subarray(at, at + 4 + size));
    at += 4 + size;
  }
  return at === input.length ? { blocks, end: at } : null;
}

/** @param tries match candidates a position: 1 is quick, 64 comes near the best the format can do */
export function encodeLz4Legacy(bytes: Uint8Array, tries: number): Uint8Array<ArrayBuffer> {
  const parts: Uint8Array[] = [LZ4_LEGACY_MAGIC];
  for (let at = 0; at < bytes.length; at += LZ4_LEGACY_BLOCK_BYTES) {
    const block = encodeLz4Block(bytes.subarray(at, at + LZ4_LEGACY_BLOCK_BYTES), tries);
    const size = new Uint8Array(4);
    new DataView(size.buffer).setUint32(0, block.length, true);
    parts.push(size, block);
  }
  return concatBytes(parts);
}
