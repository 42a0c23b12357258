import { afterEach, describe, expect, it } from 'vitest';
import { roundView } from '@/server/rounds/round-view';
import { begin, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld } from '../fixtures/lane-world';
import { WORKS } from '../fixtures/work-table';

/* Whole pieces of work, each to its sign-off, with two wrong moves that are held. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

describe('a whole piece of work', () => {
  it.each(WORKS.map((work) => [work.n, work.what, work] as const))('%i: %s', async (_n, _what, work) => {
    world = await laneWorld(work.world);
    await work.before?.(world);
    const { lane, target, wipe, limits } = work;
    const round = await begin(world, work.goal, {
      lane,
      ...(target === undefined ? {} : { target }),
      ...(wipe === undefined ? {} : { wipe }),
      ...(limits === undefined ? {} : { limits }),
    });
    const planned = (await roundView(round)).steps.map(({ key }) => key);
    const wrong = [...work.wrong].sort(
      (a, b) => planned.indexOf(a.at as never) - planned.indexOf(b.at as never),
    );
    for (const move of wrong) {
      await walk(world, round, { ...work.walk, until: move.at as never });
      await move.make(world, round);
    }
    await walk(world, round, work.walk);
    const view = await roundView(round);
    expect([view.state, view.reached]).toEqual(['closed', 'yes']);
    await work.ends(world, round);
  });
});
