import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../../tests/fixtures/expect-error';
import { seeded } from '../../../../tests/fixtures/images';
import { countingSource, memorySource, readPieces } from '../../bytes/byte-source';
import { concatBytes, equalBytes } from '../../bytes/bytes';
import { CHUNK, chunkHeaderBytes, sparseHeaderBytes } from './layout';
import { readSparse } from './reader';
import { splitSparse } from './split';
import { writeSparse } from './writer';
import { tries } from '../../../../tests/fixtures/soak';

const B = 4096;
async function sparse(bytes: Uint8Array): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  await writeSparse(memorySource(bytes), async (part) => void parts.push(part.slice()));
  return concatBytes(parts);
}
async function unsparse(bytes: Uint8Array): Promise<Uint8Array> {
  const image = await readSparse(memorySource(bytes, 's.img'));
  await image.checkCrc();
  return image.output.read(0, image.output.size);
}
const header = (change: object = {}) =>
  sparseHeaderBytes({ blockBytes: B, totalBlocks: 3, totalChunks: 3, crc32: 0, ...change });
const word = Uint8Array.of(1, 2, 3, 4);
/** Raw, fill, don't care: one block each. */
const chunks = [
  chunkHeaderBytes(CHUNK.raw, 1, B),
  seeded(1, B),
  chunkHeaderBytes(CHUNK.fill, 1, 4),
  word,
  chunkHeaderBytes(CHUNK.skip, 1, 0),
];
const good = concatBytes([header(), ...chunks]);

describe('sparse images', () => {
  it('written are read back, whatever is in them', async () => {
    const block = fc.oneof(
      fc.constant(new Uint8Array(B)),
      fc.nat(200).map((seed) => seeded(seed + 1, B)),
      fc.constant(new Uint8Array(B).fill(0x5a)),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(block, { minLength: 1, maxLength: 8 }), async (blocks) => {
        const bytes = concatBytes(blocks);
        expect(await unsparse(await sparse(bytes))).toEqual(bytes);
      }),
      tries(40),
    );
  });

  it('of zeros are small, and a last block is filled up', async () => {
    const packed = await sparse(new Uint8Array(5_000_000));
    expect(packed.length).toBeLessThan(100);
    expect((await unsparse(packed)).length).toBe(Math.ceil(5_000_000 / B) * B);
  });

  it('read raw, fill and don’t care, also across their seams', async () => {
    const { output } = await readSparse(memorySource(good));
    expect(output.size).toBe(3 * B);
    expect([...(await output.read(B - 2, B + 3))]).toEqual([...seeded(1, B).slice(-2), 1, 2, 3]);
    expect([...(await output.read(2 * B - 1, 2 * B + 2))]).toEqual([4, 0, 0]);
  });

  it('are read lazily', async () => {
    const source = countingSource(memorySource(good));
    const { output } = await readSparse(source);
    expect(source.bytesRead).toBeLessThan(100);
    await output.read(10, 20);
    expect(source.bytesRead).toBeLessThan(120);
  });

  it.each([
    ['blocks of nothing', header({ blockBytes: 0 }), 'bad-field'],
    ['blocks of six bytes', header({ blockBytes: 6 }), 'bad-field'],
    ['sixteen tebibytes', header({ blockBytes: 1 << 20, totalBlocks: 1 << 24 }), 'too-large'],
    ['a million chunks and more', header({ totalChunks: 0xffffffff }), 'too-large'],
    ['more chunks than there are', header({ totalChunks: 4 }), 'truncated'],
    ['fewer blocks than its chunks', header({ totalBlocks: 2 }), 'bad-field'],
    ['more blocks than its chunks', header({ totalBlocks: 4 }), 'bad-field'],
    ['another sum', header({ crc32: 5 }), 'bad-hash'],
  ] as const)('with %s are refused', async (_what, head, code) =>
    expect(await codeOf(() => unsparse(concatBytes([head, ...chunks])))).toBe(code),
  );

  it.each([
    ['an unknown chunk', chunkHeaderBytes(0xcac9, 1, 0), 'unsupported'],
    ['a raw chunk that is too short', chunkHeaderBytes(CHUNK.raw, 2, B), 'bad-field'],
    ['a fill of eight bytes', chunkHeaderBytes(CHUNK.fill, 1, 8), 'bad-field'],
    ['a don’t-care with data', chunkHeaderBytes(CHUNK.skip, 1, 4), 'bad-field'],
    ['a raw chunk of the largest size', chunkHeaderBytes(CHUNK.raw, 0xffffffff, 0xfffffff0), 'bad-field'],
  ] as const)('with %s are refused', async (_what, chunk, code) =>
    expect(await codeOf(() => unsparse(concatBytes([header({ totalChunks: 1 }), chunk, seeded(1, B)])))).toBe(
      code,
    ),
  );

  it('of another version are refused', async () => {
    const bytes = good.slice();
    bytes[4] = 2;
    expect(await codeOf(() => unsparse(bytes))).toBe('unsupported');
  });

  it('may have larger headers', async () => {
    const head = concatBytes([header(), new Uint8Array(4)]);
    head[8] = 32;
    expect((await unsparse(concatBytes([head, ...chunks]))).length).toBe(3 * B);
  });

  it('are refused at every cut, and survive any change', async () => {
    for (const cut of [0, 3, 4, 27, 28, 39, 40, 100, 40 + B, 40 + B + 13, good.length - 1])
      expect(await codeOf(() => unsparse(good.subarray(0, cut))), `${cut}`).toBe('truncated');
    await fc.assert(
      fc.asyncProperty(fc.nat(60), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = good.slice();
        bytes[at] = value;
        await answersProperly(() => readSparse(memorySource(bytes)));
      }),
      tries(300),
    );
  });
});

describe('an image in several sparse ones', () => {
  it('laid one over another makes the whole, none longer than it may be', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 60_000 }),
        fc.integer({ min: 4300, max: 30_000 }),
        async (length, most) => {
          const bytes = seeded(length, length);
          const out = new Uint8Array(Math.ceil(length / 4096) * 4096).fill(0xee);
          for (const part of splitSparse(memorySource(bytes), most)) {
            expect(part.size).toBeLessThanOrEqual(most);
            const { output, said } = await readSparse(part);
            expect(output.size).toBe(out.length);
            for (const { start, end } of said) out.set(await output.read(start, end), start);
            // in whatever pieces it is read
            const pieces: Uint8Array[] = [];
            for await (const piece of readPieces(part, 1 + (length % 5000))) pieces.push(piece);
            expect(equalBytes(concatBytes(pieces), await part.read(0, part.size))).toBe(true);
          }
          expect(equalBytes(out.subarray(0, length), bytes)).toBe(true);
          expect(out.subarray(length).every((byte) => byte === 0)).toBe(true);
        },
      ),
      tries(60),
    );
  });
  it('needs room for one block at least', async () => {
    expect(await codeOf(async () => splitSparse(memorySource(seeded(1, 10)), 100))).toBe('usage');
  });
});
