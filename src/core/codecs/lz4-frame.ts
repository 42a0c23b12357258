import { ByteWriter } from '../bytes/byte-writer';
import { ByteCursor } from '../bytes/byte-cursor';
import { concatBytes } from '../bytes/bytes';
import { EternoError } from '../errors';
import type { Decoded } from './codec';
import { decodeLz4Block, encodeLz4Block } from './lz4-block';

/*
 * lz4 frames (docs/formats.md, "Compressed streams"): descriptor, blocks, end mark, checksums. All fields LE.
 */

const MAGIC = 0x184d2204;
const HISTORY_BYTES = 64 * 1024;
const BLOCK_BYTES: Readonly<Record<number, number>> = { 4: 64 << 10, 5: 256 << 10, 6: 1 << 20, 7: 4 << 20 };

/** XXH32 with seed 0, as a number. */
export type Xxh32 = (bytes: Uint8Array) => number;

interface Descriptor {
  readonly independent: boolean;
  readonly blockChecksums: boolean;
  readonly contentChecksum: boolean;
  readonly contentSize: number | null;
  readonly blockBytes: number;
}

const corrupt = (what: string, offset: number) =>
  new EternoError('corrupt', `lz4 frame: ${what}`, { offset });

function readDescriptor(cursor: ByteCursor, xxh32: Xxh32): Descriptor {
  if (cursor.u32le() !== MAGIC) throw new EternoError('bad-magic', 'this is no lz4 frame', { offset: 0 });
  const start = cursor.at;
  const [flags, sizes] = cursor.take(2) as unknown as [number, number];
  if (flags >> 6 !== 1)
    throw new EternoError('unsupported', `lz4 frame version ${flags >> 6}`, { offset: start });
  const blockBytes = BLOCK_BYTES[(sizes >> 4) & 7];
  if (blockBytes === undefined) throw corrupt('an unknown block size', start + 1);
  if (flags & 1)
    throw new EternoError('unsupported', 'an lz4 frame that wants a dictionary', { offset: start });
  const contentSize = flags & 8 ? cursor.u64le() : null;
  const check = (xxh32(cursor.bytes.subarray(start, cursor.at)) >>> 8) & 0xff;
  if (cursor.take(1)[0] !== check) throw corrupt('its descriptor is damaged', start);
  return {
    independent: (flags & 32) !== 0,
    blockChecksums: (flags & 16) !== 0,
    contentChecksum: (flags & 4) !== 0,
    contentSize,
    blockBytes,
  };
}

/**
 * What a frame's descriptor says it holds, unpacked; null where it does not.
 * @param head the first 14 bytes or more
 */
export function lz4FrameContentBytes(head: Uint8Array): number | null {
  if (head.length < 14 || !(head[4]! & 8)) return null;
  return new ByteCursor(head, 6, 'lz4 frame').u64le();
}

/**
 * Unpacks the one frame at the start of `input`.
 * @throws {EternoError} `bad-magic`, `unsupported`, `truncated`, `corrupt`, `too-large`
 */
export function decodeLz4Frame(input: Uint8Array, limitBytes: number, xxh32: Xxh32): Decoded {
  const cursor = new ByteCursor(input, 0, 'lz4 frame');
  const { independent, blockChecksums, contentChecksum, contentSize, blockBytes } = readDescriptor(
    cursor,
    xxh32,
  );
  if (contentSize !== null && contentSize > limitBytes)
    throw new EternoError(
      'too-large',
      `the lz4 frame holds ${contentSize} bytes, more than the ${limitBytes} allowed`,
    );
  const blocks: Uint8Array[] = [];
  let total = 0;
  let history = new Uint8Array(0);
  for (;;) {
    const at = cursor.at;
    const word = cursor.u32le();
    if (word === 0) break;
    const size = word & 0x7fffffff;
    if (size > blockBytes) throw corrupt(`a block of ${size} bytes`, at);
    const packed = cursor.take(size);
    const room = Math.min(blockBytes, limitBytes - total);
    const block = word >>> 31 ? packed : decodeLz4Block(packed, room, independent ? undefined : history);
    if (block.length > room)
      throw new EternoError('too-large', `the lz4 frame unpacks to more than ${limitBytes} bytes`);
    if (blockChecksums && cursor.u32le() !== xxh32(packed)) throw corrupt('a block has another checksum', at);
    blocks.push(block);
    total += block.length;
    if (!independent) history = concatBytes([history, block]).slice(-HISTORY_BYTES);
  }
  const bytes = concatBytes(blocks);
  if (contentChecksum && cursor.u32le() !== xxh32(bytes))
    throw corrupt('its content has another checksum', cursor.at - 4);
  if (contentSize !== null && contentSize !== total)
    throw corrupt(`${total} bytes came out where ${contentSize} are stated`, 0);
  return { bytes, consumed: cursor.at };
}

const WRITTEN_BLOCK_BYTES = 4 << 20;
/** Version 1, independent blocks, content size and content checksum; blocks of 4 MiB. */
const WRITTEN_FLAGS = [0b0110_1100, 0x70] as const;

/**
 * One frame of independent blocks, with size and checksum of the content.
 * @param tries match candidates a position
 */
export function encodeLz4Frame(bytes: Uint8Array, tries: number, xxh32: Xxh32): Uint8Array<ArrayBuffer> {
  const out = new ByteWriter(bytes.length + 64)
    .u32le(MAGIC)
    .bytes(Uint8Array.from(WRITTEN_FLAGS))
    .u64le(bytes.length);
  const descriptor = new ByteWriter(10).bytes(Uint8Array.from(WRITTEN_FLAGS)).u64le(bytes.length).finish();
  out.bytes(Uint8Array.of((xxh32(descriptor) >>> 8) & 0xff));
  for (let at = 0; at < bytes.length; at += WRITTEN_BLOCK_BYTES) {
    const plain = bytes.subarray(at, at + WRITTEN_BLOCK_BYTES);
    const packed = encodeLz4Block(plain, tries);
    if (packed.length < plain.length) out.u32le(packed.length).bytes(packed);
    else out.u32le((plain.length | 0x8000_0000) >>> 0).bytes(plain);
  }
  return out.u32le(0).u32le(xxh32(bytes)).finish();
}
