import { cString, fromLatin1, latin1 } from '../../bytes/bytes';
import { EternoError } from '../../errors';

/*
 * Tar headers (docs/formats.md, "Tar sets"): blocks of 512 bytes, numbers as octal text or, with the top bit
 * set, as big-endian binary.
 */

export const TAR_BLOCK_BYTES = 512;

export interface TarHeader {
  readonly name: string;
  /** Bytes of data that follow, padded to a whole block. */
  readonly size: number;
  /** `0` file, `5` folder, `L` and `K` a long name, `x` and `g` attributes, and what else writers use. */
  readonly type: string;
}

const bad = (what: string, file: string, offset: number) =>
  new EternoError('bad-field', `tar header: ${what}`, { file, offset });

function number(bytes: Uint8Array, at: number, length: number): number {
  if (bytes[at]! & 0x80) {
    let value = bytes[at]! & 0x7f;
    for (let i = at + 1; i < at + length; i += 1) value = value * 256 + bytes[i]!;
    return value;
  }
  const text = cString(bytes.subarray(at, at + length)).trim();
  return /^[0-7]*$/.test(text) ? Number.parseInt(text || '0', 8) : Number.NaN;
}

/** The checksum a header should carry: the sum of its bytes with the checksum field as spaces. */
export function tarChecksum(block: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < TAR_BLOCK_BYTES; i += 1) sum += i >= 148 && i < 156 ? 32 : block[i]!;
  return sum;
}

/** Whether a block reads as the header of a member. */
export function isTarHeader(block: Uint8Array): boolean {
  return block.length >= TAR_BLOCK_BYTES && block[0] !== 0 && number(block, 148, 8) === tarChecksum(block);
}

/**
 * @param offset of the block in the file, for messages
 * @throws {EternoError} `bad-field`, `bad-hash` (its checksum)
 */
export function parseTarHeader(block: Uint8Array, file: string, offset: number): TarHeader {
  const checksum = number(block, 148, 8);
  if (Number.isNaN(checksum)) throw bad('the checksum is no number', file, offset);
  if (checksum !== tarChecksum(block))
    throw new EternoError('bad-hash', 'tar header: its checksum is wrong', { file, offset });
  const size = number(block, 124, 12);
  if (!Number.isSafeInteger(size)) throw bad('the size is no number', file, offset);
  const prefix = fromLatin1(block.subarray(257, 262)) === 'ustar' ? cString(block.subarray(345, 500)) : '';
  const name = cString(block.subarray(0, 100));
  return {
    name: prefix === '' ? name : `${prefix}/${name}`,
    size,
    type: String.fromCharCode(block[156] || 0x30),
  };
}

/**
 * A stock header with another size and its checksum renewed; all else stays as its maker wrote it.
 * @throws {EternoError} `too-large`
 */
export function resizedTarHeader(block: Uint8Array, size: number): Uint8Array<ArrayBuffer> {
  const out = block.slice(0, TAR_BLOCK_BYTES);
  if (size > 0o77777777777)
    throw new EternoError('too-large', `a member of ${size} bytes is more than a tar header holds`);
  out.set(latin1(`${size.toString(8).padStart(11, '0')}\0`), 124);
  out.set(latin1(`${tarChecksum(out).toString(8).padStart(6, '0')}\0 `), 148);
  return out;
}
