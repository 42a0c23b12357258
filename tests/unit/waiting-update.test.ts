import { afterEach, describe, expect, it } from 'vitest';
import { findRound } from '@/server/repositories/round-repository';
import { roundView } from '@/server/rounds/round-view';
import { begin, see, seen, touch, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';

/* An update that the handset took by itself waits for its start, and root is not there. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

async function waiting(): Promise<LaneWorld> {
  world = await laneWorld({ offer: OCTOBER, facts: { snapshot: 'snapshotted' } });
  await touch('take whole update');
  await seen(
    'its offer to restart',
    ({ screen }) => screen.kind === 'system' && screen.touches.some(({ id }) => id === 'later'),
  );
  await touch('later');
  return world;
}

describe('a waiting update without root', () => {
  it('is rooted before its first start, from the bootloader', async () => {
    const own = await waiting();
    const round = await begin(own, 'monthly update', { lane: 'patch-the-waiting-slot' });
    const walked = await walk(own, round);
    expect(walked.filter((key) => ['write-root', 'start', 'merge'].includes(key))).toEqual([
      'write-root',
      'start',
      'merge',
    ]);
    expect((await see()).state).toMatchObject({
      running: { slot: 'b', build: OCTOBER, rooted: true },
      snapshot: 'none',
      slots: { a: { gone: true } },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it.each([
    ['one-image-once', SEPTEMBER],
    ['patch-the-waiting-slot', OCTOBER],
  ])('is a first root of either build where nobody said which: %s ends at %s', async (lane, target) => {
    const own = await waiting();
    const round = await begin(own, 'first root', { lane });
    expect((await findRound(round))!.target).toBe(target);
    const walked = await walk(own, round);
    expect(walked.includes('cancel-update')).toBe(target === SEPTEMBER);
    expect((await see()).state.running).toMatchObject({ build: target, rooted: true });
    expect((await findRound(round))!.target).toBe(target);
    expect((await roundView(round)).state).toBe('closed');
  });

  it('is called off by a round about the build that runs', async () => {
    const own = await waiting();
    const round = await begin(own, 'first root', { target: SEPTEMBER });
    expect((await findRound(round))!.target).toBe(SEPTEMBER);
    await walk(own, round);
    expect((await see()).state.running).toMatchObject({ build: SEPTEMBER, rooted: true });
  });

  it('is called off where the whole build is written in its place', async () => {
    const own = await waiting();
    const round = await begin(own, 'monthly update', { lane: 'whole-build-patched' });
    const walked = await walk(own, round, { until: 'bootloader' });
    expect(walked).toContain('cancel-update');
    expect((await see()).state).toMatchObject({ update: null, snapshot: 'none', active: 'a' });
    expect((await roundView(round)).steps.find((step) => step.key === 'cancel-update')).toMatchObject({
      state: 'done',
    });
  });
});
