import { concatBytes, fromLatin1, indexOfBytes } from '../../bytes/bytes';
import type { Codecs, StreamCodec } from '../../codecs/codec';
import { guessCompression } from '../../codecs/codec';
import { lz4LegacyBlocksEnd } from '../../codecs/lz4-legacy';
import { LIMITS } from '../../limits';
import type { PartOfSection } from '../../bytes/part-header';
import { splitPartHeader, withPartHeader } from '../../bytes/part-header';

/* The kernel of a boot image: raw or packed, perhaps behind a part header, perhaps with something appended. */

export interface Kernel extends PartOfSection {
  readonly compression: 'none' | StreamCodec;
  /** Unpacked. */
  readonly plain: Uint8Array;
  /** What follows the packed stream: a size, a device tree. */
  readonly tail: Uint8Array;
}

/** @throws {EternoError} `corrupt`, `truncated`, `too-large`, `bad-field` of a part header */
export async function readKernel(section: Uint8Array, codecs: Codecs): Promise<Kernel> {
  const part = splitPartHeader(section);
  const kind = guessCompression(part.body);
  if (kind === null || kind === 'none')
    return { ...part, compression: 'none', plain: part.body, tail: new Uint8Array(0) };
  const { bytes, consumed } = await codecs.decode(kind, part.body, LIMITS.imageBytes);
  // the size that some writers append stays as it is: it is of the unpacked kernel, whose length no step changes
  const end = kind === 'lz4-legacy' ? lz4LegacyBlocksEnd(part.body, consumed) : consumed;
  return { ...part, compression: kind, plain: bytes, tail: part.body.subarray(end) };
}

/** The section with another unpacked kernel in it, packed in the kind it came in. @throws {EternoError} `unsupported` */
export async function kernelSection(
  kernel: Kernel,
  plain: Uint8Array,
  codecs: Codecs,
  strong: boolean,
): Promise<Uint8Array<ArrayBuffer>> {
  const body =
    kernel.compression === 'none'
      ? plain
      : concatBytes([await codecs.encode(kernel.compression, plain, strong), kernel.tail]);
  return withPartHeader(kernel, body);
}

const VERSION = new TextEncoder().encode('Linux version ');
const LONGEST_VERSION = 200;

/** The version that a kernel's own text states, such as `6.1.57-hill`; null where it states none. */
export function kernelVersion(plain: Uint8Array): string | null {
  const at = indexOfBytes(plain, VERSION);
  if (at < 0) return null;
  const from = at + VERSION.length;
  return /^[^\s\0]+/.exec(fromLatin1(plain.subarray(from, from + LONGEST_VERSION)))?.[0] ?? null;
}

const ARM64_AT = 56;
/** By the kernel's head; null where that does not tell. */
export const kernelArchitecture = (plain: Uint8Array): string | null =>
  fromLatin1(plain.subarray(ARM64_AT, ARM64_AT + 4)) === 'ARMd' ? 'arm64' : null;
