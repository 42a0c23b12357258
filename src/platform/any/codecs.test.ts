import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { concatBytes } from '@/core/bytes/bytes';
import type { CodecName } from '@/core/codecs/codec';
import { guessCompression } from '@/core/codecs/codec';
import { nodePorts } from '@/platform/node/node-ports';
import { answersProperly, codeOf } from '../../../tests/fixtures/expect-error';
import { seeded } from '../../../tests/fixtures/images';

const { codecs } = nodePorts;
const WRITABLE: readonly CodecName[] = ['gzip', 'lz4-legacy', 'xz'];
const plain = seeded(2, 60_000);
const fromBase64 = (text: string) => new Uint8Array(Buffer.from(text, 'base64'));
/** "trail club trail club\n" by other programs. */
const BZIP2 = fromBase64('QlpoOTFBWSZTWXpI1xwAAAnRgAAQQAA4JBYAIAAgqoDTahADDdM+R1S1o5I+LuSKcKEg9JGuOA==');
const ZSTD = fromBase64('KLUv/QRYlQAAYHRyYWlsIGNsdWIgCgEA3ooXu7HgOw==');

describe('codecs', () => {
  it.each(WRITABLE)('%s gives back what went in and says how much it took', async (name) => {
    const packed = await codecs.encode(name, plain);
    expect(guessCompression(packed)).toBe(name);
    const { bytes, consumed } = await codecs.decode(name, packed, plain.length);
    expect(bytes).toEqual(plain);
    expect(consumed).toBe(packed.length);
  });

  it.each(WRITABLE)('%s packs the same bytes the same way every time', async (name) => {
    expect(await codecs.encode(name, plain)).toEqual(await codecs.encode(name, plain));
  });

  it.each(WRITABLE)('%s stops at its output limit', async (name) => {
    const bomb = await codecs.encode(name, new Uint8Array(4_000_000));
    expect(await codeOf(() => codecs.decode(name, bomb, 100_000))).toBe('too-large');
  });

  it.each(WRITABLE)('%s says when it is cut off', async (name) => {
    const packed = await codecs.encode(name, plain);
    for (const part of [0.1, 0.5, 0.9])
      expect(await codeOf(() => codecs.decode(name, packed.subarray(0, Math.floor(packed.length * part)), 1 << 20))).toMatch(/truncated|corrupt/);
  });

  it('gzip ends at its own end, and writes no clock', async () => {
    const packed = await codecs.encode('gzip', plain);
    expect([...packed.subarray(4, 8)]).toEqual([0, 0, 0, 0]);
    const { consumed } = await codecs.decode('gzip', concatBytes([packed, new Uint8Array(100)]), 1 << 20);
    expect(consumed).toBe(packed.length);
    expect((await codecs.decode('gzip', new Uint8Array(gzipSync(plain)), 1 << 20)).bytes).toEqual(plain);
  });

  it('xz is written with a check that kernels read', async () => {
    const packed = await codecs.encode('xz', plain);
    expect(packed[7]! & 0x0f).toBe(1);
  });

  it.each([
    ['bzip2', BZIP2],
    ['zstd', ZSTD],
  ] as const)('%s made by another program is read', async (name, packed) => {
    const { bytes } = await codecs.decode(name, packed, 1000);
    expect(new TextDecoder().decode(bytes)).toBe('trail club trail club\n');
    expect(await codeOf(() => codecs.decode(name, packed, 10))).toBe('too-large');
  });

  it('bzip2 damage is found by its own checksum', async () => {
    const damaged = BZIP2.slice();
    damaged[30]! ^= 0x10;
    expect(await codeOf(() => codecs.decode('bzip2', damaged, 1000))).toMatch(/corrupt|truncated|too-large/);
  });

  it.each(['bzip2', 'zstd'] as const)('%s can be read, not written', async (name) => {
    expect(await codeOf(() => codecs.encode(name, plain))).toBe('unsupported');
  });

  it.each(['gzip', 'xz', 'bzip2', 'zstd', 'lz4-legacy'] as const)('%s survives any bytes behind its magic', async (name) => {
    const magic = {
      gzip: [0x1f, 0x8b, 8, 0],
      xz: [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0],
      bzip2: [0x42, 0x5a, 0x68, 0x39],
      zstd: [0x28, 0xb5, 0x2f, 0xfd],
      'lz4-legacy': [2, 0x21, 0x4c, 0x18],
    }[name];
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 200 }), (tail) =>
        answersProperly(() => codecs.decode(name, concatBytes([Uint8Array.from(magic), tail]), 100_000)),
      ),
      { numRuns: 40 },
    );
  });
});

describe('guessCompression', () => {
  it.each([
    ['gzip', [0x1f, 0x8b]],
    ['lz4-frame', [4, 0x22, 0x4d, 0x18]],
    ['lzma', [0x5d, 0, 0]],
    ['zstd', [0x28, 0xb5, 0x2f, 0xfd]],
    ['none', [0x30, 0x37, 0x30, 0x37, 0x30]],
    [null, [1, 2, 3, 4, 5]],
  ])('tells %s', (name, bytes) => expect(guessCompression(Uint8Array.from(bytes))).toBe(name));
});
