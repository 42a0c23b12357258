import { createHash, createPublicKey, createVerify, generateKeyPairSync } from 'node:crypto';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { codeOf } from '../../../../tests/fixtures/expect-error';
import { kitZip, seeded, stockImage } from '../../../../tests/fixtures/images';
import { nodeDigests } from '../../../platform/node/node-digests';
import { nodePorts } from '../../../platform/node/node-ports';
import { readSigningKey } from '../../../platform/node/signing-key';
import { memorySource } from '../../bytes/byte-source';
import { readKit } from '../../kits/read-kit';
import { patchImage, proveAgain } from '../../patch/patch-image';
import { vbmetaBytes } from './layout';
import { checkDigest, checkSignature, readAvbFooter } from './reader';
import { avbPublicKey, renewVbmeta } from './rewrite';

let dir: string;
const pems: Record<number, string> = {};
beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-keys-'));
  for (const bits of [2048, 4096, 3072]) {
    const { privateKey } = generateKeyPairSync('rsa', { modulusLength: bits });
    pems[bits] = privateKey.export({ type: 'pkcs8', format: 'pem' }) as string;
    await writeFile(join(dir, `${bits}.pem`), pems[bits]!);
  }
});
afterAll(() => rm(dir, { recursive: true, force: true }));

const source = (bytes: Uint8Array) => memorySource(bytes, 'image');
const kit = async () => (await readKit(source(await kitZip()), nodePorts)).kit;
const keyOf = (bits: number) => readSigningKey(join(dir, `${bits}.pem`));

describe('verified-boot data brought up to date', () => {
  it('unsigned: the digest holds again, the rest of the block stays', async () => {
    const stock = await stockImage();
    const { bytes, proof, notes } = await patchImage(source(stock), await kit(), nodePorts, {
      avb: { mode: 'rehash' },
    });
    const [before, after] = [(await readAvbFooter(source(stock)))!, (await readAvbFooter(source(bytes)))!];
    expect(bytes.length).toBe(stock.length);
    expect(after.vbmeta).toMatchObject({
      algorithm: 0,
      rollbackIndex: before.vbmeta.rollbackIndex,
      flags: before.vbmeta.flags,
      release: before.vbmeta.release,
    });
    expect(after.vbmeta.properties).toEqual(before.vbmeta.properties);
    expect(after.vbmeta.hashes[0]!.salt).toEqual(before.vbmeta.hashes[0]!.salt);
    expect(await checkDigest(source(bytes), after, nodeDigests)).toBe(true);
    expect(await checkSignature(after.vbmeta, nodeDigests)).toBeNull();
    expect(proof.every(({ ok }) => ok)).toBe(true);
    expect(notes.join()).toContain('main vbmeta');
  });

  it.each([2048, 4096] as const)(
    'signed with a key of %d bits: digest and signature hold, also by another program’s reckoning',
    async (bits) => {
      const stock = await stockImage();
      const avb = { mode: 'sign', key: await keyOf(bits) } as const;
      const { bytes, proof } = await patchImage(source(stock), await kit(), nodePorts, { avb });
      const { vbmeta } = (await readAvbFooter(source(bytes)))!;
      expect(vbmeta.algorithm).toBe(bits === 2048 ? 1 : 2);
      expect(await checkSignature(vbmeta, nodeDigests)).toBe(true);
      const verifier = createVerify('sha256');
      for (const part of vbmeta.signedParts) verifier.update(part);
      expect(verifier.verify(createPublicKey(pems[bits]!), vbmeta.signature)).toBe(true);
      expect(proof.map(({ check }) => check).join()).toContain('the signature holds');
      expect(
        (await proveAgain(source(stock), await kit(), source(bytes), nodePorts, { avb })).every(
          ({ ok }) => ok,
        ),
      ).toBe(true);
      bytes[bytes.length - 64 - 5000]! ^= 0;
      expect(
        (await proveAgain(source(stock), await kit(), source(bytes), nodePorts, {})).every(({ ok }) => ok),
      ).toBe(false);
    },
  );

  it('carries the key as the bootloader reckons with it', async () => {
    const key = await keyOf(2048);
    const bytes = avbPublicKey(key);
    const number = (part: Uint8Array) => BigInt(`0x${Buffer.from(part).toString('hex')}`);
    const n = number(key.modulus);
    expect(number(bytes.subarray(0, 4))).toBe(2048n);
    expect((number(bytes.subarray(4, 8)) * n) % (1n << 32n)).toBe((1n << 32n) - 1n);
    expect(number(bytes.subarray(8, 264))).toBe(n);
    expect(number(bytes.subarray(264))).toBe((1n << 4096n) % n);
  });

  it('needs exactly one hash descriptor, and a footer', async () => {
    const none = vbmetaBytes({ rollbackIndex: 0, release: 'x', properties: {} });
    const { parseVbmeta } = await import('./layout');
    const avb = { footer: null, blob: none, vbmeta: parseVbmeta(none, 'x', 0) };
    expect(await codeOf(() => renewVbmeta(avb, seeded(1, 10), nodeDigests, null))).toBe('unsupported');
    const bare = await stockImage({ footer: false });
    const options = { avb: { mode: 'rehash' }, partitionSize: 1 << 20 } as const;
    expect(await codeOf(async () => patchImage(source(bare), await kit(), nodePorts, options))).toBe(
      'unsupported',
    );
  });

  it('counts the signature when it asks whether the image fits', async () => {
    const roomy = await stockImage({ partitionBytes: 64 * 1024 });
    const ramdiskEnd = (await readAvbFooter(source(roomy)))!.footer!.vbmetaOffset;
    const tight = await stockImage({ partitionBytes: ramdiskEnd + 2048 });
    const avb = { mode: 'sign', key: await keyOf(4096) } as const;
    const outcome = async (image: Uint8Array) =>
      patchImage(source(image), await kit(), nodePorts, { avb }).then(
        ({ bytes }) => bytes.length,
        (thrown: { code: string }) => thrown.code,
      );
    expect(await outcome(roomy)).toBe(64 * 1024);
    expect(await outcome(tight)).toBe('does-not-fit');
  });
});

describe('signing keys', () => {
  it.each([
    ['of another length', () => pems[3072]!],
    ['that are public', () => createPublicKey(pems[2048]!).export({ type: 'spki', format: 'pem' }) as string],
    [
      'of another kind',
      () => generateKeyPairSync('ed25519').privateKey.export({ type: 'pkcs8', format: 'pem' }) as string,
    ],
    [
      'behind a pass phrase',
      () =>
        generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({
          type: 'pkcs8',
          format: 'pem',
          cipher: 'aes-256-cbc',
          passphrase: 'x',
        }) as string,
    ],
    ['that are none', () => 'hello'],
    ['that are too long', () => 'x'.repeat(70_000)],
  ])('%s are refused', async (_what, pem) => {
    await writeFile(join(dir, 'other.pem'), pem());
    expect(await codeOf(() => readSigningKey(join(dir, 'other.pem')))).toBe('key-invalid');
  });

  it('that are not there say so', async () =>
    expect(await codeOf(() => readSigningKey(join(dir, 'none.pem')))).toBe('not-found'));

  it('give the same signature every time', async () => {
    const key = await keyOf(2048);
    expect(await key.sign(seeded(1, 100))).toEqual(
      await key.sign(seeded(1, 50), seeded(1, 100).subarray(50)),
    );
    expect(
      createHash('sha256')
        .update(await key.sign(seeded(1, 100)))
        .digest('hex'),
    ).toHaveLength(64);
  });
});
