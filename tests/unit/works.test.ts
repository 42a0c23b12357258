import { afterEach, describe, expect, it } from 'vitest';
import { roundView } from '@/server/rounds/round-view';
import { begin, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld } from '../fixtures/lane-world';
import { WORKS } from '../fixtures/work-table';
import type { Work } from '../fixtures/works';

/* Whole pieces of work, each to its sign-off, with two wrong moves that are held. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** One round to its end, with the wrong moves that belong into it. */
async function through(own: LaneWorld, work: Work, n: number): Promise<string> {
  const { goal, ...options } = work.rounds[n]!;
  const round = await begin(own, goal, options);
  const steps = (await roundView(round)).steps.map(({ key }) => key);
  const place = ({ at }: Work['wrong'][number]) => steps.findIndex((key) => key === at);
  const moves = work.wrong.filter((move) => (move.round ?? 0) === n && move.at !== 'plan');
  for (const move of [...moves].sort((a, b) => place(a) - place(b))) {
    expect(place(move), `${move.at} is a step of it`).toBeGreaterThanOrEqual(0);
    await walk(own, round, { ...work.walk, until: steps[place(move)]! });
    await move.make(own, round);
  }
  await walk(own, round, work.walk);
  const view = await roundView(round);
  expect([view.state, view.reached]).toEqual(['closed', 'yes']);
  return round;
}

describe('a whole piece of work', () => {
  it.each(WORKS.map((work) => [work.n, work.what, work] as const))('%i: %s', async (_n, _what, work) => {
    world = await laneWorld(work.world);
    await work.before?.(world);
    for (const move of work.wrong) if (move.at === 'plan') await move.make(world, '');
    let round = '';
    for (let n = 0; n < work.rounds.length; n += 1) round = await through(world, work, n);
    await work.ends(world, round);
  });
});
