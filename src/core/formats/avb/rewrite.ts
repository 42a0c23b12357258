import { ByteCursor } from '../../bytes/byte-cursor';
import { ByteWriter } from '../../bytes/byte-writer';
import { concatBytes } from '../../bytes/bytes';
import type { Digests } from '../../bytes/digest';
import { digestBytes } from '../../bytes/digest';
import { EternoError } from '../../errors';
import { VBMETA_HEADER_BYTES, VBMETA_MAGIC } from './layout';
import type { AvbData } from './reader';

/*
 * A vbmeta block brought up to date with a changed image, unsigned or signed anew (docs/formats.md,
 * "Verified-boot data").
 */

/** A private RSA key of the person's own. The key itself stays on its side of the port. */
export interface SigningKey {
  readonly bits: 2048 | 4096;
  /** Big-endian, `bits / 8` bytes. */
  readonly modulus: Uint8Array;
  /** PKCS#1 v1.5 with SHA-256 over the parts one after another; `bits / 8` bytes. */
  sign(...parts: Uint8Array[]): Promise<Uint8Array>;
}

const ALGORITHM: Readonly<Record<SigningKey['bits'], number>> = { 2048: 1, 4096: 2 };
const HASH_TAG = 2;
const BLOCK_MULTIPLE = 64;

/** Descriptors as they stand, one after another, headers included. */
function splitDescriptors(list: Uint8Array): { readonly tag: number; readonly bytes: Uint8Array }[] {
  const found = [];
  const cursor = new ByteCursor(list);
  while (cursor.left > 0) {
    const start = cursor.at;
    const tag = cursor.u64be();
    cursor.skip(cursor.u64be());
    found.push({ tag, bytes: list.subarray(start, cursor.at) });
  }
  return found;
}

/** The descriptor with another image size and digest; salt, names and flags stay. */
function renewedDescriptor(
  bytes: Uint8Array,
  imageSize: number,
  digest: Uint8Array,
): Uint8Array<ArrayBuffer> {
  const out = bytes.slice();
  const view = new DataView(out.buffer);
  view.setBigUint64(16, BigInt(imageSize));
  const [nameBytes, saltBytes, digestBytes] = [56, 60, 64].map((at) => view.getUint32(at)) as [
    number,
    number,
    number,
  ];
  if (digestBytes !== digest.length)
    throw new EternoError('bad-field', `a digest of ${digestBytes} bytes where ${digest.length} belong`);
  out.set(digest, 132 + nameBytes + saltBytes);
  return out;
}

/** The key as the bootloader wants it: bits, -1/n mod 2^32, n, r² mod n with r = 2^bits; all BE. */
export function avbPublicKey({
  bits,
  modulus,
}: Pick<SigningKey, 'bits' | 'modulus'>): Uint8Array<ArrayBuffer> {
  let n = 0n;
  for (const byte of modulus) n = (n << 8n) | BigInt(byte);
  const two32 = 1n << 32n;
  let inverse = 1n;
  // Newton's iteration doubles the right bits: 1 to 32 in five rounds; n is odd
  for (let i = 0; i < 6; i += 1) inverse = (inverse * (2n - n * inverse)) % two32;
  const n0inv = (two32 - (((inverse % two32) + two32) % two32)) % two32;
  const rr = (1n << BigInt(2 * bits)) % n;
  const rrBytes = Uint8Array.from(
    rr
      .toString(16)
      .padStart(bits / 4, '0')
      .match(/../g)!,
    (pair) => Number.parseInt(pair, 16),
  );
  return new ByteWriter(8 + bits / 4).u32be(bits).u32be(Number(n0inv)).bytes(modulus).bytes(rrBytes).finish();
}

/**
 * The block with its one hash descriptor renewed: algorithm 0 and no key, or, with a key, signed by it.
 * Rollback index, flags, release and the other descriptors stay.
 * @param image what the descriptor's digest is over
 * @throws {EternoError} `unsupported` where the block has no hash descriptor, or several, or one of another
 *   kind of digest
 */
export async function renewVbmeta(
  avb: AvbData,
  image: Uint8Array,
  digests: Digests,
  key: SigningKey | null,
): Promise<Uint8Array<ArrayBuffer>> {
  const { hashes } = avb.vbmeta;
  if (hashes.length !== 1)
    throw new EternoError(
      'unsupported',
      hashes.length === 0
        ? 'the image has no hash descriptor of its own to bring up to date; it may stand in the main vbmeta'
        : `the image has ${hashes.length} hash descriptors; only one can be brought up to date`,
    );
  const { salt, algorithm } = hashes[0]!;
  if (algorithm !== 'sha256' && algorithm !== 'sha512')
    throw new EternoError('unsupported', `a hash descriptor with algorithm "${algorithm}"`);
  const digest = await digestBytes(digests, algorithm, salt, image);
  const descriptors = concatBytes(
    splitDescriptors(avb.vbmeta.descriptorBytes).map(({ tag, bytes }) =>
      tag === HASH_TAG ? renewedDescriptor(bytes, image.length, digest) : bytes,
    ),
  );
  const publicKey = key ? avbPublicKey(key) : new Uint8Array(0);
  const aux = new ByteWriter(4096).bytes(descriptors).bytes(publicKey).align(BLOCK_MULTIPLE).finish();
  const [hashBytes, signatureBytes] = key ? [32, key.bits / 8] : [0, 0];
  const authSize = Math.ceil((hashBytes + signatureBytes) / BLOCK_MULTIPLE) * BLOCK_MULTIPLE;
  const header = new ByteWriter(VBMETA_HEADER_BYTES)
    .bytes(VBMETA_MAGIC)
    .bytes(avb.blob.subarray(4, 12))
    .u64be(authSize)
    .u64be(aux.length)
    .u32be(key ? ALGORITHM[key.bits] : 0)
    .u64be(0)
    .u64be(hashBytes)
    .u64be(hashBytes)
    .u64be(signatureBytes)
    .u64be(descriptors.length)
    .u64be(publicKey.length)
    .u64be(descriptors.length + publicKey.length)
    .u64be(0)
    .u64be(0)
    .u64be(descriptors.length)
    // rollback index, flags, rollback index location, release string, reserved
    .bytes(avb.blob.subarray(112, VBMETA_HEADER_BYTES))
    .finish();
  if (!key) return concatBytes([header, aux]);
  const auth = new Uint8Array(authSize);
  auth.set(await digestBytes(digests, 'sha256', header, aux));
  auth.set(await key.sign(header, aux), hashBytes);
  return concatBytes([header, auth, aux]);
}
