import { createHash, generateKeyPairSync, sign } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../../tests/fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage } from '../../../../tests/fixtures/images';
import { nodeDigests } from '../../../platform/node/node-digests';
import { memorySource } from '../../bytes/byte-source';
import { ByteWriter } from '../../bytes/byte-writer';
import { concatBytes } from '../../bytes/bytes';
import { LIMITS } from '../../limits';
import {
  FOOTER_BYTES,
  footerBytes,
  parseFooter,
  parseVbmeta,
  vbmetaBytes,
  VBMETA_HEADER_BYTES,
} from './layout';
import { checkDigest, checkSignature, imageDescriptor, readAvbFooter, readVbmetaImage } from './reader';
import { appendAvbFooter } from './writer';
import { tries } from '../../../../tests/fixtures/soak';

const parts = {
  partition: 'boot',
  partitionBytes: 65536,
  salt: seeded(1, 32),
  rollbackIndex: 77,
  release: 'test 1.0',
  properties: { 'com.android.build.boot.fingerprint': FINGERPRINT, odd: 'ä = b' },
};

describe('footers', () => {
  it('written are read back, descriptor and properties with them', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 50_000 }),
        fc.nat(1_000_000),
        async (length, rollbackIndex) => {
          const image = seeded(length, length);
          const whole = await appendAvbFooter(image, { ...parts, rollbackIndex }, nodeDigests);
          expect(whole.length).toBe(parts.partitionBytes);
          const avb = (await readAvbFooter(memorySource(whole)))!;
          expect(avb.footer).toMatchObject({ originalImageSize: length });
          expect(avb.footer!.vbmetaOffset % 4096).toBe(0);
          expect(avb.vbmeta).toMatchObject({
            algorithm: 0,
            flags: 0,
            rollbackIndex,
            release: 'test 1.0',
            properties: parts.properties,
          });
          expect(imageDescriptor(avb)).toMatchObject({
            partition: 'boot',
            imageSize: length,
            algorithm: 'sha256',
          });
          expect(await checkDigest(memorySource(whole), avb, nodeDigests)).toBe(true);
          expect(await checkSignature(avb.vbmeta, nodeDigests)).toBeNull();
        },
      ),
      tries(30),
    );
  });

  it('notice one changed bit of the image', async () => {
    const whole = await appendAvbFooter(seeded(1, 9000), parts, nodeDigests);
    whole[5000]! ^= 1;
    expect(
      await checkDigest(memorySource(whole), (await readAvbFooter(memorySource(whole)))!, nodeDigests),
    ).toBe(false);
  });

  it('do not fit silently', async () => {
    expect(await codeOf(() => appendAvbFooter(seeded(1, 65_000), parts, nodeDigests))).toBe('does-not-fit');
  });

  it('are absent from a file without their magic', async () => {
    expect(await readAvbFooter(memorySource(seeded(1, 4096)))).toBeNull();
    expect(await readAvbFooter(memorySource(seeded(1, 10)))).toBeNull();
  });

  const footer = { originalImageSize: 100, vbmetaOffset: 4096, vbmetaSize: 512 };
  it.each([
    ['a block past the footer', { ...footer, vbmetaSize: 70_000 }, 'too-large'],
    ['a block that runs into the footer', { ...footer, vbmetaOffset: 8192 - 64 - 256 + 64 }, 'bad-field'],
    ['an offset past the end', { ...footer, vbmetaOffset: 81920 }, 'truncated'],
    ['an odd offset', { ...footer, vbmetaOffset: 4100 }, 'bad-field'],
    ['an image over its block', { ...footer, originalImageSize: 5000 }, 'bad-field'],
  ] as const)('are refused for %s', async (_what, bad, code) =>
    expect(await codeOf(() => parseFooter(footerBytes(bad), 8192, 'x'))).toBe(code),
  );

  it.each([
    ['a block up to the footer', { ...footer, vbmetaSize: 8192 - 64 - 4096 }, 'read'],
    ['a block one byte into the footer', { ...footer, vbmetaSize: 8192 - 64 - 4096 + 1 }, 'truncated'],
    ['an image up to its block', { ...footer, originalImageSize: 4096 }, 'read'],
    ['an image one byte over its block', { ...footer, originalImageSize: 4097 }, 'bad-field'],
  ] as const)('%s: %s', async (_what, given, outcome) => {
    const read = () => parseFooter(footerBytes(given), 8192, 'x');
    if (outcome === 'read') expect(read()).toEqual(given);
    else expect(await codeOf(read)).toBe(outcome);
  });

  it('of the largest block that is read, and one byte more', async () => {
    const size = LIMITS.vbmetaBytes;
    expect(parseFooter(footerBytes({ ...footer, vbmetaSize: size }), 1 << 30, 'x')!.vbmetaSize).toBe(size);
    expect(
      await codeOf(() => parseFooter(footerBytes({ ...footer, vbmetaSize: size + 1 }), 1 << 30, 'x')),
    ).toBe('too-large');
  });

  it('of a later version are refused', async () => {
    const bytes = footerBytes(footer);
    bytes[7] = 2;
    expect(await codeOf(() => parseFooter(bytes, 8192, 'x'))).toBe('unsupported');
  });
});

/** A vbmeta block signed the way the platform does. */
function signedVbmeta(bits: 2048 | 4096): Uint8Array {
  const { privateKey, publicKey } = generateKeyPairSync('rsa', {
    modulusLength: bits,
    publicExponent: 65537,
  });
  const n = BigInt(`0x${Buffer.from(publicKey.export({ format: 'jwk' }).n!, 'base64url').toString('hex')}`);
  const size = bits / 8;
  const big = (value: bigint) =>
    Uint8Array.from(Buffer.from(value.toString(16).padStart(size * 2, '0'), 'hex'));
  const r = 1n << BigInt(bits);
  let inverse = 1n;
  for (let i = 0; i < 5; i += 1) inverse = (inverse * (2n - n * inverse)) & 0xffffffffn;
  const key = concatBytes([
    new ByteWriter()
      .u32be(bits)
      .u32be(Number((1n << 32n) - inverse))
      .finish(),
    big(n),
    big((r * r) % n),
  ]);
  const auxSize = Math.ceil(key.length / 64) * 64;
  const authSize = 32 + size;
  const authPadded = Math.ceil(authSize / 64) * 64;
  const header = new ByteWriter(256)
    .bytes(Uint8Array.from('AVB0', (c) => c.charCodeAt(0)))
    .u32be(1)
    .u32be(0)
    .u64be(authPadded)
    .u64be(auxSize)
    .u32be(bits === 2048 ? 1 : 2);
  header
    .u64be(0)
    .u64be(32)
    .u64be(32)
    .u64be(size)
    .u64be(0)
    .u64be(key.length)
    .u64be(key.length)
    .u64be(0)
    .u64be(0)
    .u64be(0)
    .u64be(5)
    .u32be(0)
    .u32be(0)
    .ascii('test', 48)
    .zeros(80);
  const aux = new ByteWriter(auxSize)
    .bytes(key)
    .zeros(auxSize - key.length)
    .finish();
  const signed = concatBytes([header.finish(), aux]);
  const hash = createHash('sha256').update(signed).digest();
  const signature = sign('sha256', signed, privateKey);
  return concatBytes([
    header.finish(),
    new ByteWriter()
      .bytes(hash)
      .bytes(signature)
      .zeros(authPadded - authSize)
      .finish(),
    aux,
  ]);
}

describe('signatures', () => {
  it.each([2048, 4096] as const)('of RSA %d are checked against the key they carry', async (bits) => {
    const block = signedVbmeta(bits);
    expect(await checkSignature(parseVbmeta(block, 'x', 0), nodeDigests)).toBe(true);
    for (const at of [20, 130, VBMETA_HEADER_BYTES + 3, VBMETA_HEADER_BYTES + 60, block.length - 200]) {
      const changed = block.slice();
      changed[at]! ^= 1;
      await answersProperly(async () =>
        expect(await checkSignature(parseVbmeta(changed, 'x', 0), nodeDigests)).toBe(false),
      );
    }
  });

  it('are refused with a key or a signature of another length, whatever its first bytes say', async () => {
    const vbmeta = parseVbmeta(signedVbmeta(2048), 'x', 0);
    expect(await checkSignature(vbmeta, nodeDigests)).toBe(true);
    const longer = (bytes: Uint8Array) => concatBytes([bytes, new Uint8Array(1)]);
    expect(await checkSignature({ ...vbmeta, publicKey: longer(vbmeta.publicKey) }, nodeDigests)).toBe(false);
    expect(
      await checkSignature({ ...vbmeta, publicKey: vbmeta.publicKey.subarray(0, -1) }, nodeDigests),
    ).toBe(false);
    expect(await checkSignature({ ...vbmeta, signature: longer(vbmeta.signature) }, nodeDigests)).toBe(false);
    expect(
      await checkSignature(
        { ...vbmeta, hash: vbmeta.hash.map((byte, i) => (i === 0 ? byte ^ 1 : byte)) },
        nodeDigests,
      ),
    ).toBe(false);
  });

  it('survive a key whose modulus makes no sense', async () => {
    const block = signedVbmeta(2048);
    const modulus = VBMETA_HEADER_BYTES + 320 + 8;
    for (const fill of [0, 2]) {
      const changed = block.slice();
      changed.fill(0, modulus, modulus + 256);
      changed[modulus + 255] = fill;
      expect(await checkSignature(parseVbmeta(changed, 'x', 0), nodeDigests)).toBe(false);
    }
  });
});

describe('vbmeta blocks', () => {
  const block = vbmetaBytes({ rollbackIndex: 3, flags: 2, release: 'r', properties: { a: 'b', 'c.d': '' } });

  it('may be a file of their own', async () => {
    const { vbmeta } = await readVbmetaImage(memorySource(block));
    expect(vbmeta).toMatchObject({
      flags: 2,
      rollbackIndex: 3,
      properties: { a: 'b', 'c.d': '' },
      tags: [0, 0],
    });
  });

  it('are refused at every cut', async () => {
    for (let cut = 0; cut < block.length; cut += 3)
      expect(await codeOf(() => parseVbmeta(block.subarray(0, cut), 'x', 0))).toMatch(
        /truncated|bad-magic|bad-field/,
      );
  });

  it('survive any numbers in their header and descriptors', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.nat(block.length - 9),
        fc.uint8Array({ minLength: 1, maxLength: 8 }),
        async (at, change) => {
          const bytes = block.slice();
          bytes.set(change, at);
          await answersProperly(() => parseVbmeta(bytes, 'x', 0));
        },
      ),
      tries(500),
    );
  });
});

describe('stock images of the tests', () => {
  it('carry a footer whose digest holds', async () => {
    const image = memorySource(await stockImage());
    const avb = (await readAvbFooter(image))!;
    expect(await checkDigest(image, avb, nodeDigests)).toBe(true);
    expect(avb.footer!.vbmetaOffset + avb.footer!.vbmetaSize).toBeLessThan(image.size - FOOTER_BYTES);
  });
});
