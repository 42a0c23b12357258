import { brotliCompressSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { concatBytes } from '@/core/bytes/bytes';
import type { CodecName } from '@/core/codecs/codec';
import { guessCompression } from '@/core/codecs/codec';
import { decodeAll } from '@/core/codecs/decode-all';
import { brotli as browserBrotli } from '@/platform/browser/brotli';
import { nodePorts } from '@/platform/node/node-ports';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { answersProperly, codeOf } from '../../../tests/fixtures/expect-error';
import { seeded } from '../../../tests/fixtures/images';
import { tries } from '../../../tests/fixtures/soak';

const { codecs } = nodePorts;
const WRITABLE: readonly CodecName[] = ['gzip', 'lz4-legacy', 'lz4-frame', 'xz'];
const plain = seeded(2, 60_000);
const fromBase64 = (text: string) => new Uint8Array(Buffer.from(text, 'base64'));
/** "trail club trail club\n" by other programs. */
const BZIP2 = fromBase64('QlpoOTFBWSZTWXpI1xwAAAnRgAAQQAA4JBYAIAAgqoDTahADDdM+R1S1o5I+LuSKcKEg9JGuOA==');
/** "trail club trail club trail club\n" by another program, its size not stated. */
const LZMA = fromBase64('XQAAgAD//////////wA6HIhGMh8+b9RD/7d3mIaW3+z///3rMAA=');
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
      expect(
        await codeOf(() =>
          codecs.decode(name, packed.subarray(0, Math.floor(packed.length * part)), 1 << 20),
        ),
      ).toMatch(/truncated|corrupt/);
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

  it('lzma made by another program is read, and nothing in its header is believed unchecked', async () => {
    const { bytes } = await codecs.decode('lzma', LZMA, 1000);
    expect(new TextDecoder().decode(bytes)).toBe('trail club trail club trail club\n');
    expect(await codeOf(() => codecs.decode('lzma', LZMA, 10))).toBe('too-large');
    const changed = (change: (view: DataView) => void) => {
      const copy = LZMA.slice();
      change(new DataView(copy.buffer));
      return codeOf(() => codecs.decode('lzma', copy, 1000));
    };
    expect(await changed((view) => view.setUint32(1, 0xffffffff, true))).toBe('too-large');
    expect(await changed((view) => view.setBigUint64(5, 1n << 40n, true))).toBe('too-large');
    expect(await changed((view) => view.setBigUint64(5, 900n, true))).toBe('truncated');
    expect(await changed((view) => view.setUint8(0, 255))).toBe('corrupt');
    expect(await changed((view) => view.setUint8(0, 0x80))).toBe('unsupported');
    expect(await codeOf(() => codecs.decode('lzma', LZMA.subarray(0, 12), 1000))).toBe('truncated');
  });

  it('brotli is read within its limit', async () => {
    const packed = new Uint8Array(brotliCompressSync(plain));
    expect((await codecs.decode('brotli', packed, plain.length)).bytes).toEqual(plain);
    expect(await codeOf(() => codecs.decode('brotli', packed, 1000))).toBe('too-large');
    expect(await codeOf(() => codecs.decode('brotli', packed.subarray(0, 100), 1 << 20))).toBe('corrupt');
    expect(await browserBrotli(packed, plain.length)).toEqual(plain);
  });

  it.each([
    ['xz', async () => codecs.encode('xz', plain)],
    ['bzip2', async () => BZIP2],
    ['zstd', async () => ZSTD],
    ['lz4-frame', async () => codecs.encode('lz4-frame', plain)],
  ] as const)('%s takes its own stream and leaves what follows', async (name, make) => {
    const packed = await make();
    const followed = concatBytes([packed, new Uint8Array(12), packed]);
    const { bytes, consumed } = await codecs.decode(name, followed, 1 << 20);
    expect(consumed).toBe(packed.length);
    expect(bytes).toEqual((await codecs.decode(name, packed, 1 << 20)).bytes);
  });

  it('xz goes in and comes out in pieces, however large it is', async () => {
    const large = seeded(6, 7_000_000);
    const packed = await codecs.encode('xz', large);
    expect(packed.length).toBeGreaterThan(4 * 1024 * 1024);
    const { bytes } = await codecs.decode('xz', packed, large.length);
    expect(Buffer.compare(bytes, large)).toBe(0);
    expect(await codeOf(() => codecs.decode('xz', packed, large.length - 1))).toBe('too-large');
    expect(await codeOf(() => codecs.decode('xz', packed.subarray(0, 3_000_000), large.length))).toBe(
      'truncated',
    );
  });

  it.each(['xz', 'gzip'] as const)('%s streams behind each other are one file', async (name) => {
    const [a, b] = [
      await codecs.encode(name, plain.subarray(0, 1000)),
      await codecs.encode(name, plain.subarray(1000)),
    ];
    expect(await decodeAll(codecs, name, concatBytes([a, b]), plain.length)).toEqual(plain);
    expect(await codeOf(() => decodeAll(codecs, name, concatBytes([a, b]), plain.length - 1))).toBe(
      'too-large',
    );
  });

  it('spread over threads give the same bytes and the same errors', async () => {
    const large = seeded(5, 20_000_000);
    const spread = pooledPorts.codecs;
    await spread.warmUp();
    const packed = await spread.encode('lz4-legacy', large);
    expect(Buffer.compare(packed, await codecs.encode('lz4-legacy', large))).toBe(0);
    const { bytes, consumed } = await spread.decode(
      'lz4-legacy',
      concatBytes([packed, new Uint8Array(64)]),
      large.length,
    );
    expect([Buffer.compare(bytes, large), consumed]).toEqual([0, packed.length]);
    const xz = await codecs.encode('xz', large.subarray(0, 400_000));
    expect(Buffer.compare((await spread.decode('xz', xz, 1 << 20)).bytes, large.subarray(0, 400_000))).toBe(
      0,
    );
    expect(await codeOf(() => spread.decode('xz', xz, 1000))).toBe('too-large');
    expect(await codeOf(() => spread.decode('lz4-legacy', packed, 1000))).toBe('too-large');
    expect(await codeOf(() => spread.decode('lz4-legacy', packed.subarray(0, -5), large.length))).toBe(
      'truncated',
    );
  });

  it('bzip2 damage is found by its own checksum', async () => {
    const damaged = BZIP2.slice();
    damaged[30]! ^= 0x10;
    expect(await codeOf(() => codecs.decode('bzip2', damaged, 1000))).toMatch(/corrupt|truncated|too-large/);
  });

  it('bzip2 can be read, not written', async () => {
    expect(await codeOf(() => codecs.encode('bzip2', plain))).toBe('unsupported');
  });

  it.each(['lzma', 'zstd'] as const)('%s is written so that it is read again', async (name) => {
    for (const length of [1, 128 * 1024, 128 * 1024 + 1, 300_000]) {
      const bytes = seeded(7, length);
      const packed = await codecs.encode(name, bytes);
      // an lzma stream's end is not looked for
      const behind = new Uint8Array(name === 'lzma' ? 0 : 5);
      const read = await codecs.decode(name, concatBytes([packed, behind]), 1 << 20);
      expect([Buffer.compare(read.bytes, bytes), read.consumed], String(length)).toEqual([0, packed.length]);
      // the same bytes every time
      expect(Buffer.compare(await codecs.encode(name, bytes), packed)).toBe(0);
    }
  });

  it('zstd packs what can be packed, quickly or with more time', async () => {
    const words = Buffer.from(
      Array.from({ length: 60_000 }, (_, i) => `entry ${(i * 7919) % 1000}\n`).join(''),
    );
    const [quick, strong] = [await codecs.encode('zstd', words), await codecs.encode('zstd', words, true)];
    for (const packed of [quick, strong]) {
      expect(packed.length).toBeLessThan(words.length / 8);
      expect(Buffer.compare((await codecs.decode('zstd', packed, 1 << 20)).bytes, words)).toBe(0);
    }
    expect(Buffer.compare(quick, strong)).not.toBe(0);
  });

  it('lzma that claims more than its length can hold is cut off, and takes no time to say so', async () => {
    const tiny = Uint8Array.from('5d00008000ffffffffffffffff003a1c8846321f3e'.match(/../g)!, (two) =>
      parseInt(two, 16),
    );
    const before = process.memoryUsage().rss;
    expect(await codeOf(() => codecs.decode('lzma', tiny, 16 * 1024 * 1024))).toBe('truncated');
    expect(process.memoryUsage().rss - before).toBeLessThan(200 * 1024 * 1024);
  });
  it.each(['gzip', 'xz', 'bzip2', 'zstd', 'lz4-legacy', 'lzma'] as const)(
    '%s survives any bytes behind its magic',
    async (name) => {
      const magic = {
        gzip: [0x1f, 0x8b, 8, 0],
        xz: [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0],
        bzip2: [0x42, 0x5a, 0x68, 0x39],
        zstd: [0x28, 0xb5, 0x2f, 0xfd],
        'lz4-legacy': [2, 0x21, 0x4c, 0x18],
        lzma: [0x5d, 0, 0, 1, 0, 200, 0, 0, 0, 0, 0, 0, 0],
      }[name];
      await fc.assert(
        fc.asyncProperty(fc.uint8Array({ maxLength: 200 }), (tail) =>
          answersProperly(() => codecs.decode(name, concatBytes([Uint8Array.from(magic), tail]), 100_000)),
        ),
        tries(40),
      );
    },
  );
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
