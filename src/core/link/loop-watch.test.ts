import { describe, expect, it } from 'vitest';
import type { Listed } from './handset-link';
import { LOOP_COMINGS, loopWatch, UNWATCHED_MS } from './loop-watch';

const LISTED = { mode: 'system' } as Listed;

/** Asks a watch along what the link says, each so many milliseconds after the one before. */
async function asked(
  ...said: readonly (readonly [comings: number | null, listed: boolean, waited?: number])[]
) {
  let at = 0;
  let time = 0;
  const loops = loopWatch(
    {
      comings: () => Promise.resolve(said[at]![0]),
      listed: () => Promise.resolve(said[at]![1] ? LISTED : null),
    },
    () => time,
  );
  const found: boolean[] = [];
  for (; at < said.length; at += 1) {
    time += said[at]![2] ?? 1000;
    found.push(await loops());
  }
  return found;
}

describe('a watch for loops', () => {
  it('counts what came without being listed, from the last time that it was', async () => {
    expect(
      await asked([1, true], [2, false], [1 + LOOP_COMINGS - 1, false], [1 + LOOP_COMINGS, false]),
    ).toEqual([false, false, false, true]);
    expect(await asked([1, true], [5, false], [5, true], [9, false], [10, false])).toEqual([
      false,
      false,
      false,
      false,
      true,
    ]);
  });
  it('begins where it is first asked, and anew where the other end does', async () => {
    expect(await asked([40, false], [40 + LOOP_COMINGS - 1, false], [40 + LOOP_COMINGS, false])).toEqual([
      false,
      false,
      true,
    ]);
    expect(await asked([40, false], [1, false], [LOOP_COMINGS, false])).toEqual([false, false, false]);
  });
  it('forgets what came while nobody looked', async () => {
    const later = 1 + LOOP_COMINGS;
    expect(await asked([1, true], [later, false, UNWATCHED_MS])).toEqual([false, true]);
    expect(await asked([1, true], [later, false, UNWATCHED_MS + 1], [later + 1, false])).toEqual([
      false,
      false,
      false,
    ]);
  });
  it('says nothing where the link can’t see it', async () => {
    expect(await asked([1, false], [null, false], [LOOP_COMINGS, false])).toEqual([false, false, false]);
  });
});
