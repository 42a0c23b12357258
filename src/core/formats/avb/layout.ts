import { ByteCursor } from '../../bytes/byte-cursor';
import { ByteWriter } from '../../bytes/byte-writer';
import { fromLatin1, latin1, startsWith } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/* Verified-boot data (docs/formats.md, "Verified-boot data"). Pure layouts. All fields BE. */

export const FOOTER_BYTES = 64;
export const VBMETA_HEADER_BYTES = 256;
export const FOOTER_MAGIC = latin1('AVBf');
export const VBMETA_MAGIC = latin1('AVB0');

export interface AvbFooter {
  readonly originalImageSize: number;
  readonly vbmetaOffset: number;
  readonly vbmetaSize: number;
}

const bad = (what: string, file: string, offset: number) =>
  new EternoError('bad-field', `verified-boot data: ${what}`, { file, offset });

/**
 * @param bytes the last 64 bytes of the image
 * @returns null where there is no footer
 * @throws {EternoError} `bad-field`, `truncated` (points past the end), `unsupported` version
 */
export function parseFooter(bytes: Uint8Array, imageSize: number, file: string): AvbFooter | null {
  if (!startsWith(bytes, FOOTER_MAGIC)) return null;
  const at = imageSize - FOOTER_BYTES;
  const cursor = new ByteCursor(bytes, 4, file, at);
  const major = cursor.u32be();
  cursor.u32be();
  if (major !== 1)
    throw new EternoError('unsupported', `verified-boot footer version ${major}`, { file, offset: at });
  const footer = {
    originalImageSize: cursor.u64be(),
    vbmetaOffset: cursor.u64be(),
    vbmetaSize: cursor.u64be(),
  };
  if (footer.vbmetaSize > LIMITS.vbmetaBytes)
    throw new EternoError('too-large', `a vbmeta block of ${footer.vbmetaSize} bytes`, { file, offset: at });
  if (footer.vbmetaOffset % 4096 !== 0)
    throw bad(`the vbmeta block lies at ${footer.vbmetaOffset}, not at a multiple of 4,096`, file, at);
  if (footer.vbmetaOffset + footer.vbmetaSize > at)
    throw new EternoError('truncated', 'the vbmeta block runs past the footer', { file, offset: at });
  if (footer.originalImageSize > footer.vbmetaOffset)
    throw bad('the image and its vbmeta block overlap', file, at);
  return footer;
}

export function footerBytes(footer: AvbFooter): Uint8Array<ArrayBuffer> {
  return new ByteWriter(FOOTER_BYTES)
    .bytes(FOOTER_MAGIC)
    .u32be(1)
    .u32be(0)
    .u64be(footer.originalImageSize)
    .u64be(footer.vbmetaOffset)
    .u64be(footer.vbmetaSize)
    .zeros(28)
    .finish();
}

export interface HashDescriptor {
  readonly partition: string;
  readonly imageSize: number;
  readonly algorithm: string;
  readonly salt: Uint8Array;
  readonly digest: Uint8Array;
}

/** A partition whose own vbmeta is trusted by the key given here. */
export interface ChainDescriptor {
  readonly partition: string;
  readonly rollbackIndexLocation: number;
  readonly publicKey: Uint8Array;
}

export interface Vbmeta {
  /** 0 none; 1, 2, 3 SHA-256 and 4, 5, 6 SHA-512 with RSA 2048, 4096, 8192. */
  readonly algorithm: number;
  readonly rollbackIndex: number;
  readonly rollbackIndexLocation: number;
  readonly flags: number;
  readonly release: string;
  readonly hash: Uint8Array;
  readonly signature: Uint8Array;
  readonly publicKey: Uint8Array;
  /** Header and auxiliary block: what the hash and the signature are over. */
  readonly signedParts: readonly [Uint8Array, Uint8Array];
  readonly hashes: readonly HashDescriptor[];
  readonly properties: Readonly<Record<string, string>>;
  /** All descriptors as they stand. */
  readonly descriptorBytes: Uint8Array;
  readonly chains: readonly ChainDescriptor[];
  /** Tags of all descriptors in order. */
  readonly tags: readonly number[];
}

/**
 * @param base offset of the block in the file, for messages
 * @throws {EternoError} `bad-magic`, `truncated`, `bad-field`, `unsupported`
 */
export function parseVbmeta(bytes: Uint8Array, file: string, base: number): Vbmeta {
  if (!startsWith(bytes, VBMETA_MAGIC))
    throw new EternoError('bad-magic', 'no vbmeta block where one should be', { file, offset: base });
  const cursor = new ByteCursor(bytes, 4, file, base);
  const major = cursor.u32be();
  cursor.u32be();
  if (major !== 1)
    throw new EternoError('unsupported', `vbmeta version ${major}`, { file, offset: base + 4 });
  const authSize = cursor.u64be();
  const auxSize = cursor.u64be();
  const algorithm = cursor.u32be();
  const range = () => ({ offset: cursor.u64be(), size: cursor.u64be() });
  const hash = range();
  const signature = range();
  const publicKey = range();
  range();
  const descriptors = range();
  const rollbackIndex = cursor.u64be();
  const flags = cursor.u32be();
  const rollbackIndexLocation = cursor.u32be();
  const release = fromLatin1(cursor.take(48)).replace(/\0.*$/s, '');
  if (algorithm > 6) throw bad(`algorithm ${algorithm}`, file, base + 28);
  if (authSize % 64 !== 0 || auxSize % 64 !== 0)
    throw bad('a block size is not a multiple of 64', file, base + 12);
  if (VBMETA_HEADER_BYTES + authSize + auxSize > bytes.length)
    throw new EternoError('truncated', 'the vbmeta block is cut off', { file, offset: base });
  const auth = bytes.subarray(VBMETA_HEADER_BYTES, VBMETA_HEADER_BYTES + authSize);
  const aux = bytes.subarray(VBMETA_HEADER_BYTES + authSize, VBMETA_HEADER_BYTES + authSize + auxSize);
  const within = (block: Uint8Array, { offset, size }: { offset: number; size: number }, what: string) => {
    if (offset + size > block.length)
      throw new EternoError('truncated', `verified-boot data: the ${what} runs past its block`, {
        file,
        offset: base,
      });
    return block.subarray(offset, offset + size);
  };
  const descriptorBytes = within(aux, descriptors, 'descriptor list');
  const parsed = parseDescriptors(
    descriptorBytes,
    file,
    base + VBMETA_HEADER_BYTES + authSize + descriptors.offset,
  );
  return {
    algorithm,
    rollbackIndex,
    rollbackIndexLocation,
    flags,
    release,
    hash: within(auth, hash, 'hash'),
    signature: within(auth, signature, 'signature'),
    publicKey: within(aux, publicKey, 'public key'),
    signedParts: [bytes.subarray(0, VBMETA_HEADER_BYTES), aux],
    descriptorBytes,
    ...parsed,
  };
}

function parseDescriptors(
  bytes: Uint8Array,
  file: string,
  base: number,
): Pick<Vbmeta, 'hashes' | 'properties' | 'tags' | 'chains'> {
  const chains: ChainDescriptor[] = [];
  const hashes: HashDescriptor[] = [];
  const properties: Record<string, string> = Object.create(null) as Record<string, string>;
  const tags: number[] = [];
  const list = new ByteCursor(bytes, 0, file, base);
  while (list.left > 0) {
    const at = base + list.at;
    const tag = list.u64be();
    const following = list.u64be();
    if (following % 8 !== 0) throw bad('a descriptor length is not a multiple of 8', file, at);
    const body = new ByteCursor(list.take(following), 0, file, at + 16);
    tags.push(tag);
    if (tag === 0) {
      const keyBytes = body.u64be();
      const valueBytes = body.u64be();
      const text = new TextDecoder();
      const key = text.decode(body.take(keyBytes));
      body.skip(1);
      properties[key] = text.decode(body.take(valueBytes));
    } else if (tag === 2) {
      const imageSize = body.u64be();
      const algorithm = fromLatin1(body.take(32)).replace(/\0.*$/s, '');
      const [nameBytes, saltBytes, digestBytes] = [body.u32be(), body.u32be(), body.u32be()];
      body.skip(4 + 60);
      hashes.push({
        imageSize,
        algorithm,
        partition: fromLatin1(body.take(nameBytes)),
        salt: body.take(saltBytes),
        digest: body.take(digestBytes),
      });
    } else if (tag === 4) {
      const rollbackIndexLocation = body.u32be();
      const [nameBytes, keyBytes] = [body.u32be(), body.u32be()];
      body.skip(4 + 60);
      chains.push({
        rollbackIndexLocation,
        partition: fromLatin1(body.take(nameBytes)),
        publicKey: body.take(keyBytes),
      });
    }
  }
  return { hashes, properties: { ...properties }, tags, chains };
}

export interface VbmetaParts {
  readonly rollbackIndex: number;
  readonly flags?: number;
  readonly release: string;
  readonly hash?: HashDescriptor;
  readonly properties: Readonly<Record<string, string>>;
}

/** An unsigned vbmeta block (algorithm 0) with a hash descriptor and properties. */
export function vbmetaBytes(parts: VbmetaParts): Uint8Array<ArrayBuffer> {
  const list = new ByteWriter(1024);
  const descriptor = (tag: number, body: Uint8Array) => {
    const padded = Math.ceil(body.length / 8) * 8;
    list
      .u64be(tag)
      .u64be(padded)
      .bytes(body)
      .zeros(padded - body.length);
  };
  if (parts.hash) {
    const { imageSize, algorithm, partition, salt, digest } = parts.hash;
    descriptor(
      2,
      new ByteWriter()
        .u64be(imageSize)
        .ascii(algorithm, 32)
        .u32be(partition.length)
        .u32be(salt.length)
        .u32be(digest.length)
        .zeros(64)
        .bytes(latin1(partition))
        .bytes(salt)
        .bytes(digest)
        .finish(),
    );
  }
  for (const [key, value] of Object.entries(parts.properties)) {
    const text = new TextEncoder();
    const [k, v] = [text.encode(key), text.encode(value)];
    descriptor(
      0,
      new ByteWriter().u64be(k.length).u64be(v.length).bytes(k).zeros(1).bytes(v).zeros(1).finish(),
    );
  }
  const descriptors = list.finish();
  const auxSize = Math.ceil(descriptors.length / 64) * 64;
  const out = new ByteWriter(4096).bytes(VBMETA_MAGIC).u32be(1).u32be(0).u64be(0).u64be(auxSize).u32be(0);
  out
    .zeros(32)
    .u64be(descriptors.length)
    .u64be(0)
    .u64be(descriptors.length)
    .u64be(0)
    .u64be(0)
    .u64be(descriptors.length);
  out
    .u64be(parts.rollbackIndex)
    .u32be(parts.flags ?? 0)
    .u32be(0)
    .ascii(parts.release, 48)
    .zeros(80);
  return out
    .bytes(descriptors)
    .zeros(auxSize - descriptors.length)
    .finish();
}
