import { afterEach, describe, expect, it } from 'vitest';
import { listEvents } from '@/server/repositories/event-repository';
import { benchRows } from '@/server/services/bench-service';
import { itRestarted } from '@/server/rounds/over-link';
import { roundView } from '@/server/rounds/round-view';
import { slotCells } from '@/server/services/slot-service';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';
import { forceImage } from '@/server/services/stand-in-service';
import { begin, see, seen, stepNow, touch, version, walk } from '../fixtures/lane-walk';

/* Whole lanes of updates, walked on a real stand-in with a real database, vault and real images. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** A rooted handset on September, October out. */
async function rooted(): Promise<LaneWorld> {
  world = await laneWorld({ rooted: ['a'], offer: OCTOBER });
  await world.keepPatched(SEPTEMBER);
  return world;
}

describe('update in place, the other slot patched', () => {
  it('ends rooted on the new build, with no start in between', async () => {
    const own = await rooted();
    const round = await begin(own, 'monthly update', { lane: 'update-in-place-other-slot' });
    const walked = await walk(own, round, { until: 'patch-other-slot' });
    expect(walked).toContain('stock-back');
    expect(walked.indexOf('stock-back')).toBeLessThan(walked.indexOf('take-update'));
    const held = await roundView(round);
    expect(held.interlock).not.toBeNull();
    expect(held.putBacks.length).toBeGreaterThan(0);
    expect((await see()).state.running?.build).toBe(SEPTEMBER);
    await walk(own, round);
    const { state } = await see();
    expect(state).toMatchObject({
      mode: 'system',
      active: 'b',
      running: { slot: 'b', build: OCTOBER, rooted: true },
      snapshot: 'none',
    });
    expect((await roundView(round)).state).toBe('closed');
    expect((await benchRows())[0]!).toMatchObject({ root: 'proven', build: OCTOBER.split('/')[3] });
    expect(
      (await slotCells(own.handset)).find((cell) => cell.slot === 'b' && cell.partition === 'init_boot')
        ?.verdict,
    ).toBe('read');
  });

  it('of a handset that runs slot b patches slot a, and ends there', async () => {
    world = await laneWorld({
      slot: 'b',
      builds: { a: AUGUST, b: SEPTEMBER },
      rooted: ['b'],
      offer: OCTOBER,
    });
    await world.keepPatched(SEPTEMBER);
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round);
    const { state } = await see();
    expect(state).toMatchObject({
      active: 'a',
      running: { slot: 'a', build: OCTOBER, rooted: true },
      builds: { a: OCTOBER, b: SEPTEMBER },
    });
    expect(state.images['init_boot_a']!.patchedBy).not.toBeNull();
    expect((await roundView(round)).state).toBe('closed');
    const cells = (await slotCells(world.handset)).filter(({ partition }) => partition === 'init_boot');
    expect(cells.map(({ slot, sha256: lies }) => [slot, lies])).toEqual([
      ['a', state.images['init_boot_a']!.sha256],
      ['b', state.images['init_boot_b']!.sha256],
    ]);
  });

  it.each([
    ['patched by somebody already', async (own: LaneWorld) => own.keepBrought(OCTOBER)],
    [
      'of another build',
      async (own: LaneWorld) => {
        await own.keepImagesOf(AUGUST, ['init_boot']);
        return sha256((await own.imagesOf(AUGUST)).get('init_boot')!);
      },
    ],
    [
      'no image that starts',
      async (own: LaneWorld) => {
        const bytes = (await own.imagesOf(OCTOBER)).get('radio')!;
        await own.keepImagesOf(OCTOBER, ['radio']);
        return sha256(bytes);
      },
    ],
  ])('writes nothing over a waiting slot whose image is %s', async (_, keep) => {
    const own = await rooted();
    const round = await begin(own, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(own, round, { until: 'patch-other-slot' });
    const lies = await keep(own);
    await forceImage(LANE_PROFILE, lies, 'init_boot_b');
    const before = (await see()).state.images['init_boot_b']!.sha256;
    await walk(own, round, { until: 'other-slot' });
    const step = (await roundView(round)).steps.find(({ key }) => key === 'patch-other-slot')!;
    expect(step.state).toBe('failed');
    expect((await see()).state.images['init_boot_b']!.sha256).toBe(before);
  });

  it('a restart one tap too early loses root; the round is planned anew and ends with root all the same', async () => {
    const own = await rooted();
    const round = await begin(own, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(own, round, { until: 'patch-other-slot' });
    // the offer comes again, and this time it is taken
    await seen(
      'the next offer',
      ({ screen }) => screen.kind === 'system' && screen.touches.some(({ id }) => id === 'restart now'),
    );
    await touch('restart now');
    await seen('the new build', (view) => view.state.running?.build === OCTOBER);
    expect((await see()).state.running?.rooted).toBe(false);
    await itRestarted(round, await version(round));
    expect((await benchRows())[0]!.root).toBe('lost');
    expect(await listEvents({ kind: 'slip' })).toHaveLength(1);
    expect((await stepNow(round))!.key).not.toBe('patch-other-slot');
    await walk(own, round);
    expect((await see()).state.running).toMatchObject({ build: OCTOBER, rooted: true });
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('whole builds from the computer', () => {
  it('with the patched image in it: rooted from the first start', async () => {
    const own = await rooted();
    const round = await begin(own, 'monthly update', { lane: 'whole-build-patched' });
    await walk(own, round);
    expect((await see()).state).toMatchObject({
      running: { slot: 'a', build: OCTOBER, rooted: true },
      data: { wipes: 0 },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('without wiping, then root again by hand', async () => {
    const own = await rooted();
    const round = await begin(own, 'monthly update', { lane: 'whole-build-then-root' });
    const walked = await walk(own, round);
    expect(walked.indexOf('write-build')).toBeLessThan(walked.indexOf('write-root'));
    expect((await see()).state).toMatchObject({
      running: { slot: 'a', build: OCTOBER, rooted: true },
      data: { wipes: 0 },
    });
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('whole builds on a handset that runs slot b', () => {
  it.each(['whole-build-patched', 'whole-build-then-root'])('%s go to slot b', async (lane) => {
    world = await laneWorld({ slot: 'b', builds: { a: AUGUST, b: SEPTEMBER }, rooted: ['b'] });
    await world.keepPatched(SEPTEMBER);
    const before = (await see()).state.images;
    const round = await begin(world, 'monthly update', { lane });
    await walk(world, round);
    const { state } = await see();
    expect(state).toMatchObject({ active: 'b', running: { slot: 'b', build: OCTOBER, rooted: true } });
    for (const name of ['init_boot_a', 'system_a', 'radio_a'])
      expect(state.images[name]!.sha256, name).toBe(before[name]!.sha256);
    expect((await roundView(round)).state).toBe('closed');
  });
});
