import { ByteWriter } from '../../bytes/byte-writer';
import { latin1, startsWith } from '../../bytes/bytes';
import { EternoError } from '../../errors';

/*
 * Binary patch streams (docs/formats.md, "Binary patches"): how new bytes come from old ones. Integers are 8
 * bytes LE, sign and magnitude: the top bit is the sign.
 */

const CLASSIC_MAGIC = latin1('BSDIFF40');
const TYPED_MAGIC = latin1('BSDF2');
export const PATCH_HEADER_BYTES = 32;

const PACKINGS = ['none', 'bzip2', 'brotli'] as const;
export type PatchPacking = (typeof PACKINGS)[number];

export interface PatchHeader {
  /** How the control, diff and extra streams are packed. */
  readonly packings: readonly [PatchPacking, PatchPacking, PatchPacking];
  /** Packed lengths; the extra stream takes what is left. */
  readonly controlBytes: number;
  readonly diffBytes: number;
  readonly newBytes: number;
}

/**
 * One number; `-0` reads as 0.
 * @throws {EternoError} `bad-field` past what a number holds exactly, `truncated`
 */
export function readSigned(bytes: Uint8Array, at: number, what: string): number {
  if (at + 8 > bytes.length)
    throw new EternoError('truncated', `binary patch: ${what} is cut off`, { offset: at });
  const raw = new DataView(bytes.buffer, bytes.byteOffset).getBigUint64(at, true);
  const magnitude = raw & 0x7fff_ffff_ffff_ffffn;
  if (magnitude > BigInt(Number.MAX_SAFE_INTEGER))
    throw new EternoError('bad-field', `binary patch: ${what} is ${magnitude}`, { offset: at });
  return raw >> 63n ? 0 - Number(magnitude) : Number(magnitude);
}

/** @throws {EternoError} `truncated`, `bad-magic`, `unsupported` packing, `bad-field` */
export function parsePatchHeader(bytes: Uint8Array): PatchHeader {
  if (bytes.length < PATCH_HEADER_BYTES)
    throw new EternoError('truncated', 'binary patch: the header is cut off', { offset: bytes.length });
  let packings: PatchHeader['packings'] = ['bzip2', 'bzip2', 'bzip2'];
  if (startsWith(bytes, TYPED_MAGIC)) {
    const kinds = [5, 6, 7].map((at) => {
      const kind = PACKINGS[bytes[at]!];
      if (!kind)
        throw new EternoError('unsupported', `binary patch: a stream packed as kind ${bytes[at]}`, {
          offset: at,
        });
      return kind;
    });
    packings = kinds as unknown as PatchHeader['packings'];
  } else if (!startsWith(bytes, CLASSIC_MAGIC))
    throw new EternoError('bad-magic', 'this is no binary patch', { offset: 0 });
  const [controlBytes, diffBytes, newBytes] = [
    readSigned(bytes, 8, 'the control length'),
    readSigned(bytes, 16, 'the diff length'),
    readSigned(bytes, 24, 'the new size'),
  ];
  if (controlBytes < 0 || diffBytes < 0 || newBytes < 0)
    throw new EternoError('bad-field', 'binary patch: a negative length', { offset: 8 });
  if (PATCH_HEADER_BYTES + controlBytes + diffBytes > bytes.length)
    throw new EternoError('truncated', 'binary patch: its streams run past the end', { offset: 8 });
  return { packings, controlBytes, diffBytes, newBytes };
}

export function signedBytes(value: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(8);
  const sign = value < 0 ? 1n << 63n : 0n;
  new DataView(out.buffer).setBigUint64(0, BigInt(Math.abs(value)) | sign, true);
  return out;
}

/** Header of a patch that names its packings (the BSDF2 form). */
export function patchHeaderBytes({
  packings,
  controlBytes,
  diffBytes,
  newBytes,
}: PatchHeader): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter(PATCH_HEADER_BYTES)
    .bytes(TYPED_MAGIC)
    .bytes(Uint8Array.from(packings, (kind) => PACKINGS.indexOf(kind)));
  return writer
    .bytes(signedBytes(controlBytes))
    .bytes(signedBytes(diffBytes))
    .bytes(signedBytes(newBytes))
    .finish();
}
