import { ByteCursor } from '../bytes/byte-cursor';
import { alignUp, crc32 } from '../bytes/bytes';

/*
 * Where a compressed stream ends, told from its own layout: the decoders take all they are given and do not
 * say how much of it was theirs (docs/formats.md, "Compressed streams").
 */

const XZ_HEADER_BYTES = 12;
const XZ_FOOTER_BYTES = 12;
const u32 = (bytes: Uint8Array, at: number) => new ByteCursor(bytes, at).u32le();

/**
 * Sum of the blocks' sizes as an xz index lists them, each rounded up to 4; null where the index is not
 * whole.
 */
function xzIndexBlockBytes(index: Uint8Array): number | null {
  if (index[0] !== 0 || crc32(index.subarray(0, -4)) !== u32(index, index.length - 4)) return null;
  let at = 1;
  const number = (): number => {
    let value = 0;
    for (let shift = 0; shift < 49; shift += 7) {
      const byte = index[at++] ?? 0;
      value += (byte & 0x7f) * 2 ** shift;
      if (byte < 0x80) return value;
    }
    return Number.NaN;
  };
  const records = number();
  let sum = 0;
  for (let i = 0; i < records && at < index.length; i += 1) {
    sum += alignUp(number(), 4);
    number();
  }
  return at <= index.length - 4 && Number.isSafeInteger(sum) ? sum : null;
}

/**
 * Bytes of the one xz stream that starts at 0: the first footer whose checksum, index and block sizes all
 * agree with the distance. Null where there is none, as in a cut stream.
 */
export function xzStreamBytes(bytes: Uint8Array): number | null {
  for (let footer = XZ_HEADER_BYTES + 8; footer + XZ_FOOTER_BYTES <= bytes.length; footer += 4) {
    if (bytes[footer + 10] !== 0x59 || bytes[footer + 11] !== 0x5a) continue;
    if (crc32(bytes.subarray(footer + 4, footer + 10)) !== u32(bytes, footer)) continue;
    const indexBytes = (u32(bytes, footer + 4) + 1) * 4;
    const indexStart = footer - indexBytes;
    if (indexStart < XZ_HEADER_BYTES) continue;
    if (xzIndexBlockBytes(bytes.subarray(indexStart, footer)) === indexStart - XZ_HEADER_BYTES)
      return footer + XZ_FOOTER_BYTES;
  }
  return null;
}

/** Bytes of the one zstd frame that starts at 0, by its block headers; null where it is cut off. */
export function zstdFrameBytes(bytes: Uint8Array): number | null {
  const descriptor = bytes[4];
  if (descriptor === undefined) return null;
  const singleSegment = (descriptor & 0x20) !== 0;
  const dictionaryBytes = [0, 1, 2, 4][descriptor & 3]!;
  const sizeBytes = [singleSegment ? 1 : 0, 2, 4, 8][descriptor >> 6]!;
  let at = 5 + (singleSegment ? 0 : 1) + dictionaryBytes + sizeBytes;
  for (;;) {
    if (at + 3 > bytes.length) return null;
    const header = bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16);
    const kind = (header >> 1) & 3;
    at += 3 + (kind === 1 ? 1 : header >> 3);
    if (at > bytes.length) return null;
    if (header & 1) break;
  }
  at += descriptor & 4 ? 4 : 0;
  return at <= bytes.length ? at : null;
}
