import { compress, decompress } from './lzma1.mjs';
import { EternoError } from '@/core/errors';

/*
 * lzma alone (docs/formats.md, "Compressed streams"): u8 properties, u32 LE dictionary size, u64 LE size or
 * all ones, then the stream. The library has no limits of its own, so the header is held against them first,
 * and a stream of unstated size is given one.
 */

const HEADER_BYTES = 13;
const DICTIONARY_BYTES = 128 * 1024 * 1024;
/**
 * More than any writer packs into a byte: the best that the format can do stays under 1 to 7,100. What claims
 * more is cut off or made up.
 */
const MOST_TIMES = 10_000;
const UNSTATED = 0xffff_ffff_ffff_ffffn;

/**
 * Unpacks a stream that goes on to the end of `input`.
 * @throws {EternoError} `truncated`, `corrupt`, `too-large`
 */
export function decodeLzma(input: Uint8Array, limitBytes: number): Uint8Array<ArrayBuffer> {
  if (input.length < HEADER_BYTES + 5)
    throw new EternoError('truncated', 'the lzma stream is cut off', { offset: input.length });
  const header = new DataView(input.buffer, input.byteOffset, HEADER_BYTES);
  const properties = header.getUint8(0);
  if (properties >= 225) throw new EternoError('corrupt', 'lzma: impossible properties', { offset: 0 });
  // the library takes the byte for a signed one and then makes tables without end; common writers stay far
  // below
  if (properties >= 128)
    throw new EternoError('unsupported', `lzma with properties ${properties}`, { offset: 0 });
  const dictionary = header.getUint32(1, true);
  if (dictionary > DICTIONARY_BYTES)
    throw new EternoError('too-large', `an lzma dictionary of ${dictionary} bytes`, { offset: 1 });
  const stated = header.getBigUint64(5, true);
  const tooLarge = () =>
    new EternoError('too-large', `the lzma stream unpacks to more than ${limitBytes} bytes`, { offset: 5 });
  if (stated !== UNSTATED && stated > BigInt(limitBytes)) throw tooLarge();
  const mostBytes = Math.min(limitBytes, input.length * MOST_TIMES);
  const cutOff = () => new EternoError('truncated', 'the lzma stream is cut off', { offset: input.length });
  if (stated !== UNSTATED && stated > BigInt(mostBytes)) throw cutOff();
  const bounded = input.slice();
  if (stated === UNSTATED) new DataView(bounded.buffer).setBigUint64(5, BigInt(mostBytes + 1), true);
  let bytes: Uint8Array;
  try {
    bytes = decompress(bounded);
  } catch (thrown) {
    throw new EternoError('corrupt', `lzma: ${thrown instanceof Error ? thrown.message : String(thrown)}`, {
      cause: thrown,
    });
  }
  if (bytes.length > mostBytes) throw mostBytes < limitBytes ? cutOff() : tooLarge();
  if (stated !== UNSTATED && bytes.length < Number(stated))
    throw new EternoError('truncated', `the lzma stream ends after ${bytes.length} of ${stated} bytes`, {
      offset: input.length,
    });
  return new Uint8Array(
    bytes.buffer as ArrayBuffer,
    bytes.byteOffset,
    Math.min(bytes.length, stated === UNSTATED ? bytes.length : Number(stated)),
  );
}

/** Packs into one stream that states its size. @param strong more time for a smaller result */
export const encodeLzma = (bytes: Uint8Array, strong: boolean): Uint8Array<ArrayBuffer> =>
  new Uint8Array(compress(bytes, strong ? 6 : 3));
