import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../tests/fixtures/expect-error';
import { seeded } from '../../../tests/fixtures/images';
import { concatBytes } from '../bytes/bytes';
import { decodeLz4Block, encodeLz4Block } from './lz4-block';
import { decodeLz4Legacy, encodeLz4Legacy } from './lz4-legacy';
import { tries } from '../../../tests/fixtures/soak';

const LIMIT = 64 * 1024 * 1024;
const repetitive = fc
  .array(fc.tuple(fc.uint8Array({ minLength: 1, maxLength: 12 }), fc.integer({ min: 1, max: 40 })), {
    maxLength: 30,
  })
  .map((runs) => concatBytes(runs.flatMap(([bytes, times]) => Array.from({ length: times }, () => bytes))));

describe('lz4 blocks', () => {
  it('give back what went in, at both strengths', () => {
    fc.assert(
      fc.property(
        fc.oneof(repetitive, fc.uint8Array({ maxLength: 3000 })),
        fc.constantFrom(1, 8, 64),
        (bytes, tries) => {
          expect(decodeLz4Block(encodeLz4Block(bytes, tries), LIMIT)).toEqual(new Uint8Array(bytes));
        },
      ),
      tries(300),
    );
  });

  it('end with five literals and start no match in the last twelve bytes', () => {
    const bytes = new Uint8Array(200).fill(7);
    const packed = encodeLz4Block(bytes, 64);
    expect([...packed.subarray(-5)]).toEqual([7, 7, 7, 7, 7]);
  });

  it('pack better with more tries', () => {
    const bytes = seeded(11, 200_000);
    expect(encodeLz4Block(bytes, 64).length).toBeLessThanOrEqual(encodeLz4Block(bytes, 1).length);
  });

  it('stop at the output limit instead of growing', async () => {
    const bomb = encodeLz4Block(new Uint8Array(5_000_000), 8);
    expect(bomb.length).toBeLessThan(25_000);
    expect(await codeOf(() => decodeLz4Block(bomb, 1_000_000))).toBe('too-large');
  });

  it.each([
    ['an offset of zero', [0x10, 0x61, 0, 0]],
    ['an offset before the start', [0x10, 0x61, 2, 0]],
    ['literals past the end', [0xf0, 200]],
    ['a cut offset', [0x10, 0x61, 1]],
    ['a length without end', [0xf0, 255, 255]],
  ])('refuse %s', async (_what, bytes) =>
    expect(await codeOf(() => decodeLz4Block(Uint8Array.from(bytes), 1000))).toBe('corrupt'),
  );

  it('survive any bytes', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 400 }), (bytes) =>
        answersProperly(() => decodeLz4Block(bytes, 10_000)),
      ),
      tries(),
    );
  });
});

describe('lz4 legacy streams', () => {
  const bytes = seeded(5, 100_000);
  const packed = encodeLz4Legacy(bytes, 8);
  const size = (value: number) =>
    Uint8Array.of(value & 255, (value >> 8) & 255, (value >> 16) & 255, value >>> 24);

  it('span several blocks of 8 MiB', () => {
    const big = new Uint8Array(17 * 1024 * 1024);
    big.set(bytes, 9 * 1024 * 1024);
    const { bytes: back, consumed } = decodeLz4Legacy(encodeLz4Legacy(big, 1), LIMIT);
    expect(back.length).toBe(big.length);
    expect(back.subarray(9 * 1024 * 1024, 9 * 1024 * 1024 + bytes.length)).toEqual(bytes);
    expect(consumed).toBe(encodeLz4Legacy(big, 1).length);
  });

  it.each([
    ['zeros', new Uint8Array(64)],
    ['another stream', encodeLz4Legacy(seeded(9, 500), 8)],
    ['nothing', new Uint8Array(0)],
  ])('end before %s', (_what, behind) => {
    const { bytes: back, consumed } = decodeLz4Legacy(concatBytes([packed, behind]), LIMIT);
    expect(back).toEqual(bytes);
    expect(consumed).toBe(packed.length);
  });

  it('take a repeated whole size along', () => {
    const { bytes: back, consumed } = decodeLz4Legacy(concatBytes([packed, size(bytes.length)]), LIMIT);
    expect(back).toEqual(bytes);
    expect(consumed).toBe(packed.length + 4);
  });

  it('say where they are cut, at every length', async () => {
    for (let cut = 5; cut < packed.length; cut += 997)
      expect(await codeOf(() => decodeLz4Legacy(packed.subarray(0, cut), LIMIT))).toMatch(
        /truncated|corrupt/,
      );
  });

  it('refuse a block size that no block can have', async () => {
    expect(
      await codeOf(() =>
        decodeLz4Legacy(concatBytes([packed.subarray(0, 4), size(0x7fffffff), packed.subarray(8)]), LIMIT),
      ),
    ).toBe('corrupt');
  });

  it('are the same every time', () => expect(encodeLz4Legacy(bytes, 8)).toEqual(packed));
});
