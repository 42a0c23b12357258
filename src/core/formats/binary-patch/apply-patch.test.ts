import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../../tests/fixtures/expect-error';
import { nodePorts } from '../../../platform/node/node-ports';
import { concatBytes } from '../../bytes/bytes';
import { applyBinaryPatch } from './apply-patch';
import { patchHeaderBytes, signedBytes } from './layout';

const OLD = Uint8Array.from({ length: 100 }, (_one, i) => i);
type Triple = readonly [add: number, copy: number, seek: number];

/** A patch made by hand, its streams as they are. */
function patchOf(
  triples: readonly Triple[],
  diff: readonly number[],
  extra: readonly number[],
  newBytes: number,
): Uint8Array {
  const control = concatBytes(triples.flat().map((number) => signedBytes(number)));
  const header = patchHeaderBytes({
    packings: ['none', 'none', 'none'],
    controlBytes: control.length,
    diffBytes: diff.length,
    newBytes,
  });
  return concatBytes([header, control, Uint8Array.from(diff), Uint8Array.from(extra)]);
}
const apply = (patch: Uint8Array, newBytes: number) =>
  applyBinaryPatch(OLD, patch, newBytes, nodePorts.codecs);

describe('a patch of several runs', () => {
  it('adds to the old bytes, copies new ones, and seeks on and back', async () => {
    const triples: Triple[] = [
      [3, 2, 20],
      [2, 0, -24],
      [2, 1, 0],
    ];
    const out = await apply(patchOf(triples, [0, 1, 0, 0, 10, 0, 255], [201, 202, 203], 10), 10);
    // old 0 1 2, two new ones; old 23 24; back to old 1 2, one new one
    expect([...out]).toEqual([0, 2, 2, 201, 202, 23, 34, 1, 1, 203]);
  });
  it('takes what lies outside the old bytes from the diff alone', async () => {
    expect([
      ...(await apply(
        patchOf(
          [
            [0, 0, 99],
            [3, 0, 0],
          ],
          [1, 7, 8],
          [],
          3,
        ),
        3,
      )),
    ]).toEqual([100, 7, 8]);
  });
  it.each<[string, Uint8Array, string]>([
    ['one byte too many', patchOf([[3, 2, 0]], [0, 0, 0], [1, 2], 4), 'bad-field'],
    ['one byte too few', patchOf([[3, 0, 0]], [0, 0, 0], [], 4), 'truncated|corrupt|bad-field'],
    ['a length below nothing', patchOf([[-1, 5, 0]], [], [1, 2, 3, 4, 5], 4), 'bad-field'],
    ['a diff that ends early', patchOf([[4, 0, 0]], [0, 0, 0], [], 4), 'truncated'],
    ['an extra stream that ends early', patchOf([[0, 4, 0]], [], [1, 2, 3], 4), 'truncated'],
  ])('is refused for %s', async (_what, patch, code) =>
    expect(await codeOf(() => apply(patch, 4))).toMatch(new RegExp(`^(${code})$`)),
  );
});
