import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { memorySource } from '../bytes/byte-source';
import { bytesIn, partialSource, rangesToSend } from './partial-source';

const PAGE = 16 * 1024;
const bytes = Uint8Array.from({ length: 10 * PAGE }, (_, i) => i % 251);
const piecesOf = (ranges: readonly (readonly [number, number])[]) =>
  Uint8Array.from(ranges.flatMap(([a, b]) => [...bytes.subarray(a, b)]));

describe('what to send of a file', () => {
  it('is whole pages with one more, joined where they touch, never past the end', () => {
    expect(rangesToSend([[10, 20]], bytes.length)).toEqual([[0, 2 * PAGE]]);
    expect(rangesToSend([[PAGE, 2 * PAGE]], bytes.length)).toEqual([[PAGE, 3 * PAGE]]);
    expect(rangesToSend([[9 * PAGE + 1, bytes.length]], bytes.length)).toEqual([[9 * PAGE, 10 * PAGE]]);
    expect(
      rangesToSend(
        [
          [6 * PAGE, 6 * PAGE + 1],
          [0, 1],
          [2 * PAGE, 2 * PAGE + 5],
        ],
        bytes.length,
      ),
    ).toEqual([
      [0, 4 * PAGE],
      [6 * PAGE, 8 * PAGE],
    ]);
    expect(rangesToSend([[5, 5]], bytes.length)).toEqual([]);
    expect(
      bytesIn([
        [1, 3],
        [7, 8],
      ]),
    ).toBe(3);
  });
});

describe('a file of which only some is there', () => {
  const ranges = [
    [0, 100],
    [300, 500],
  ] as const;
  const some = () => partialSource('some', bytes.length, ranges, piecesOf(ranges));
  it('reads what was sent as the whole one does', async () => {
    const whole = memorySource(bytes);
    for (const [start, end] of [
      [0, 100],
      [99, 100],
      [300, 500],
      [310, 311],
      [7, 7],
    ] as const)
      expect(await some().read(start, end)).toEqual(await whole.read(start, end));
  });
  it.each([
    [99, 101],
    [100, 101],
    [299, 301],
    [499, 501],
    [200, 210],
  ])('says that %i to %i were not sent', async (start, end) =>
    expect(await codeOf(() => some().read(start, end))).toBe('not-found'),
  );
  it('says `truncated` past the end', async () =>
    expect(await codeOf(() => some().read(0, bytes.length + 1))).toBe('truncated'));
  it.each([
    [
      'overlap',
      [
        [0, 100],
        [99, 199],
      ],
    ],
    [
      'stand out of order',
      [
        [300, 400],
        [0, 100],
      ],
    ],
    [
      'are empty',
      [
        [5, 5],
        [10, 210],
      ],
    ],
    [
      'leave the file',
      [
        [0, 100],
        [bytes.length - 50, bytes.length + 50],
      ],
    ],
    ['have another length than what came', [[0, 150]]],
    ['are no whole numbers', [[0.5, 200.5]]],
  ] as const)('refuses ranges that %s', async (_what, wrong) =>
    expect(await codeOf(() => partialSource('some', bytes.length, wrong, new Uint8Array(200)))).toBe(
      'bad-field',
    ),
  );
});
