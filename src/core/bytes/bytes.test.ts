import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { ByteCursor } from './byte-cursor';
import { countingSource, coveredBytes, memorySource, readPieces, subSource } from './byte-source';
import { ByteWriter } from './byte-writer';
import {
  alignUp,
  concatBytes,
  crc32,
  cString,
  displayName,
  equalBytes,
  fromHex,
  isZero,
  latin1,
  lengthWithoutZeros,
  toHex,
} from './bytes';
import { tries } from '../../../tests/fixtures/soak';

describe('ByteWriter and ByteCursor', () => {
  it('read back what was written, whatever the buffer had to grow to', () => {
    const word = fc.oneof(
      fc.record({ kind: fc.constant('u16le' as const), value: fc.integer({ min: 0, max: 0xffff }) }),
      fc.record({
        kind: fc.constantFrom('u32le' as const, 'u32be' as const),
        value: fc.integer({ min: 0, max: 0xffffffff }),
      }),
      fc.record({
        kind: fc.constantFrom('u64le' as const, 'u64be' as const),
        value: fc.integer({ min: 0, max: Number.MAX_SAFE_INTEGER }),
      }),
    );
    fc.assert(
      fc.property(fc.array(word, { maxLength: 60 }), fc.integer({ min: 1, max: 16 }), (words, capacity) => {
        const writer = new ByteWriter(capacity);
        for (const { kind, value } of words) writer[kind](value);
        const cursor = new ByteCursor(writer.finish());
        for (const { kind, value } of words) expect(cursor[kind]()).toBe(value);
        expect(cursor.left).toBe(0);
      }),
      tries(),
    );
  });

  it('keeps bytes across a growth and aligns with zeros', () => {
    const bytes = new ByteWriter(2).bytes(latin1('abcdef')).align(8).ascii('xy', 4).finish();
    expect([...bytes]).toEqual([...latin1('abcdef'), 0, 0, ...latin1('xy'), 0, 0]);
  });

  it('never reads past the end, and names file and offset', async () => {
    const cursor = new ByteCursor(new Uint8Array(5), 2, 'thing.img', 1000);
    const error = await (async () => cursor.u32le())().catch(
      (thrown: unknown) => thrown as { code: string; file: string; offset: number },
    );
    expect(error).toMatchObject({ code: 'truncated', file: 'thing.img', offset: 1002 });
    expect(cursor.at).toBe(2);
  });

  it('refuses 64-bit numbers beyond what any file holds', async () => {
    expect(await codeOf(() => new ByteCursor(new Uint8Array(8).fill(0xff)).u64be())).toBe('bad-field');
  });
});

describe('byte sources', () => {
  const source = memorySource(
    Uint8Array.from({ length: 100 }, (_, i) => i),
    'hundred',
  );

  it('give half-open ranges the caller owns', async () => {
    const first = await source.read(10, 13);
    first[0] = 99;
    expect([...(await source.read(10, 13))]).toEqual([10, 11, 12]);
    expect((await source.read(50, 50)).length).toBe(0);
  });

  it.each([
    [-1, 5],
    [5, 101],
    [8, 7],
    [0.5, 2],
    [0, Number.MAX_SAFE_INTEGER + 1],
  ])('refuse the range %d to %d', async (start, end) => {
    expect(await codeOf(() => source.read(start, end))).toBe('truncated');
  });

  it('show a part as a source of its own, bounded on both sides', async () => {
    const part = subSource(source, 20, 30, 'part');
    expect([...(await part.read(0, 2))]).toEqual([20, 21]);
    expect(await codeOf(() => part.read(5, 11))).toBe('truncated');
    expect(() => subSource(source, 90, 101)).toThrow(/wanted/);
  });

  it('count bytes and join neighbouring ranges', async () => {
    const counted = countingSource(source);
    await counted.read(0, 10);
    await counted.read(10, 20);
    await counted.read(50, 60);
    expect(counted.bytesRead).toBe(30);
    expect(counted.ranges).toEqual([
      [0, 20],
      [50, 60],
    ]);
  });

  it('are read in pieces to the last byte', async () => {
    const pieces: Uint8Array[] = [];
    for await (const piece of readPieces(source, 33)) pieces.push(piece);
    expect(pieces.map((piece) => piece.length)).toEqual([33, 33, 33, 1]);
    expect([...concatBytes(pieces)]).toEqual([...(await source.read(0, 100))]);
  });
});

describe('bytes', () => {
  it('turns hex both ways', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 40 }),
        (bytes) => void expect([...fromHex(toHex(bytes))]).toEqual([...bytes]),
      ),
      tries(),
    );
  });
  it('computes the CRC-32 that archives use', () => {
    expect(crc32(latin1('123456789'))).toBe(0xcbf43926);
    expect(crc32(latin1('6789'), crc32(latin1('12345')))).toBe(0xcbf43926);
  });
  it('tells zeros and lengths', () => {
    expect(lengthWithoutZeros(Uint8Array.of(1, 0, 2, 0, 0))).toBe(3);
    expect(isZero(new Uint8Array(9))).toBe(true);
    expect(isZero(Uint8Array.of(0, 1))).toBe(false);
    expect(alignUp(4097, 4096)).toBe(8192);
    expect(alignUp(8192, 4096)).toBe(8192);
    expect(cString(latin1('abc\0def'))).toBe('abc');
    expect(equalBytes(Uint8Array.of(1, 2), Uint8Array.of(1, 3))).toBe(false);
  });
  it.each([
    ['plain', [0x61, 0x62], 'ab'],
    ['UTF-8', [0xc3, 0xa4], 'ä'],
    ['a lone high byte', [0x61, 0xff, 0x62], 'a\\xffb'],
    ['a cut character', [0x61, 0xc3], 'a\\xc3'],
  ])('shows a name of %s', (_what, bytes, shown) => expect(displayName(Uint8Array.from(bytes))).toBe(shown));
});

describe('the bytes that ranges cover', () => {
  it.each<[readonly (readonly [number, number])[], number]>([
    [[], 0],
    [[[0, 10]], 10],
    [
      [
        [0, 10],
        [0, 10],
      ],
      10,
    ],
    [
      [
        [5, 15],
        [0, 10],
      ],
      15,
    ],
    [
      [
        [0, 10],
        [10, 20],
      ],
      20,
    ],
    [
      [
        [0, 30],
        [5, 10],
        [40, 41],
      ],
      31,
    ],
  ])('%j are %i', (ranges, bytes) => expect(coveredBytes(ranges)).toBe(bytes));
});
