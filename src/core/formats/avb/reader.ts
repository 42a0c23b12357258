import type { ByteSource } from '../../bytes/byte-source';
import { subSource } from '../../bytes/byte-source';
import { equalBytes, toHex } from '../../bytes/bytes';
import type { DigestName, Digests } from '../../bytes/digest';
import { digestBytes, digestOfSource } from '../../bytes/digest';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import type { AvbFooter, HashDescriptor, Vbmeta } from './layout';
import { FOOTER_BYTES, parseFooter, parseVbmeta, VBMETA_HEADER_BYTES } from './layout';

export interface AvbData {
  readonly footer: AvbFooter | null;
  readonly vbmeta: Vbmeta;
  /** The whole vbmeta blob as it stands in the image. */
  readonly blob: Uint8Array<ArrayBuffer>;
}

/**
 * The verified-boot data behind an image, or null where it has no footer.
 * @throws {EternoError} of `parseFooter` and `parseVbmeta`
 */
export async function readAvbFooter(source: ByteSource): Promise<AvbData | null> {
  if (source.size < FOOTER_BYTES) return null;
  const footer = parseFooter(
    await source.read(source.size - FOOTER_BYTES, source.size),
    source.size,
    source.name,
  );
  if (!footer) return null;
  if (footer.vbmetaSize < VBMETA_HEADER_BYTES)
    throw new EternoError('truncated', 'the vbmeta block is too short', {
      file: source.name,
      offset: footer.vbmetaOffset,
    });
  const blob = await source.read(footer.vbmetaOffset, footer.vbmetaOffset + footer.vbmetaSize);
  return { footer, blob, vbmeta: parseVbmeta(blob, source.name, footer.vbmetaOffset) };
}

/** A file that is a vbmeta image itself. */
export async function readVbmetaImage(source: ByteSource): Promise<AvbData> {
  const blob = await source.read(0, Math.min(source.size, LIMITS.vbmetaBytes));
  return { footer: null, blob, vbmeta: parseVbmeta(blob, source.name, 0) };
}

/**
 * The one hash descriptor that speaks for the image in front of a footer; null where there is none or
 * several.
 */
export function imageDescriptor(avb: AvbData): HashDescriptor | null {
  return avb.footer && avb.vbmeta.hashes.length === 1 ? avb.vbmeta.hashes[0]! : null;
}

/**
 * Whether the image still has the digest its descriptor states; null where no descriptor names it.
 * @throws {EternoError} `truncated`, `unsupported` algorithm
 */
export async function checkDigest(
  source: ByteSource,
  avb: AvbData,
  digests: Digests,
): Promise<boolean | null> {
  const descriptor = imageDescriptor(avb);
  if (!descriptor) return null;
  if (descriptor.algorithm !== 'sha256' && descriptor.algorithm !== 'sha512') {
    throw new EternoError('unsupported', `a hash descriptor with algorithm "${descriptor.algorithm}"`, {
      file: source.name,
    });
  }
  const image = subSource(source, 0, descriptor.imageSize);
  const { algorithm, salt, digest } = descriptor;
  return (await digestOfSource(digests, algorithm, image, undefined, undefined, salt)) === toHex(digest);
}

const ALGORITHMS: Readonly<Record<number, { digest: DigestName; bits: number }>> = {
  1: { digest: 'sha256', bits: 2048 },
  2: { digest: 'sha256', bits: 4096 },
  3: { digest: 'sha256', bits: 8192 },
  4: { digest: 'sha512', bits: 2048 },
  5: { digest: 'sha512', bits: 4096 },
  6: { digest: 'sha512', bits: 8192 },
};
const DIGEST_INFO: Readonly<Record<string, readonly number[]>> = {
  sha256: [
    0x30, 0x31, 0x30, 0x0d, 0x06, 0x09, 0x60, 0x86, 0x48, 0x01, 0x65, 0x03, 0x04, 0x02, 0x01, 0x05, 0x00,
    0x04, 0x20,
  ],
  sha512: [
    0x30, 0x51, 0x30, 0x0d, 0x06, 0x09, 0x60, 0x86, 0x48, 0x01, 0x65, 0x03, 0x04, 0x02, 0x03, 0x05, 0x00,
    0x04, 0x40,
  ],
};

/**
 * Checks hash and PKCS#1 v1.5 signature of a vbmeta block against the key it carries; null for algorithm 0.
 */
export async function checkSignature(vbmeta: Vbmeta, digests: Digests): Promise<boolean | null> {
  const algorithm = ALGORITHMS[vbmeta.algorithm];
  if (!algorithm) return null;
  const size = algorithm.bits / 8;
  const hash = await digestBytes(digests, algorithm.digest, ...vbmeta.signedParts);
  if (!equalBytes(hash, vbmeta.hash)) return false;
  const key = vbmeta.publicKey;
  if (vbmeta.signature.length !== size || key.length !== 8 + 2 * size) return false;
  if (new DataView(key.buffer, key.byteOffset, 4).getUint32(0) !== algorithm.bits) return false;
  const modulus = toBigInt(key.subarray(8, 8 + size));
  if (modulus % 2n === 0n) return false;
  const opened = powerMod(toBigInt(vbmeta.signature), 65537n, modulus);
  const info = DIGEST_INFO[algorithm.digest]!;
  const expected = new Uint8Array(size).fill(0xff);
  expected.set([0, 1]);
  expected[size - hash.length - info.length - 1] = 0;
  expected.set(info, size - hash.length - info.length);
  expected.set(hash, size - hash.length);
  return opened === toBigInt(expected);
}

function toBigInt(bytes: Uint8Array): bigint {
  let hex = '0x0';
  for (const byte of bytes) hex += byte.toString(16).padStart(2, '0');
  return BigInt(hex);
}

function powerMod(base: bigint, exponent: bigint, modulus: bigint): bigint {
  let result = 1n;
  let factor = base % modulus;
  for (let e = exponent; e > 0n; e >>= 1n) {
    if (e & 1n) result = (result * factor) % modulus;
    factor = (factor * factor) % modulus;
  }
  return result;
}
