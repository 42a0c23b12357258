import { afterEach, describe, expect, it } from 'vitest';
import type { EternoError } from '@/core/errors';
import { insertFacts } from '@/server/repositories/handset-repository';
import { listImages } from '@/server/repositories/image-repository';
import { needJudged } from '@/server/rounds/executors/judged-write';
import { startRunning } from '@/server/rounds/executors/running';
import { roundContext } from '@/server/rounds/round-context';
import type { AboutToWrite } from '@/server/rounds/write-questions';
import { forceJudged } from '@/server/services/forced-write';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { begin, see, walk } from '../fixtures/lane-walk';

/* The judgement of every write, as whoever sends the bytes asks it: right before the first of them. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const WATCH = {
  signal: new AbortController().signal,
  onProgress: () => undefined,
  hold: () => undefined,
  stop: () => undefined,
};

async function at(lane: string, until: string, options: LaneOptions = {}) {
  world = await laneWorld({ rooted: ['a'], ...options });
  await world.keepPatched(SEPTEMBER);
  const goal = lane.startsWith('whole') ? 'monthly update' : 'return to stock';
  const round = await begin(world, goal, { lane });
  await walk(world, round, { until: until as never });
  return { own: world, round };
}
/** What is wrong with a write at the step of now; null where nothing is. */
async function wrong(
  round: string,
  sent: { partition?: string; fingerprint?: string; role?: string; sizeBytes?: number; vault?: false },
  about: Partial<AboutToWrite> = {},
): Promise<string | null> {
  const context = await roundContext(round);
  const step = context.steps.find(({ state }) => state !== 'done')!;
  const image = (await listImages()).find(
    (one) =>
      one.partition === (sent.partition ?? 'init_boot') &&
      one.fingerprint === (sent.fingerprint ?? SEPTEMBER) &&
      one.role === (sent.role ?? 'stock'),
  );
  const asked = needJudged(
    startRunning({ ...context, step }, WATCH),
    { image: sent.vault === false ? null : image!, sizeBytes: sent.sizeBytes ?? image?.sizeBytes ?? 4096 },
    { partition: 'init_boot', slot: 'a', mode: 'bootloader', ...about },
  );
  return asked.then(
    () => null,
    (thrown: EternoError) => {
      expect(thrown.code).toBe('refused');
      return String(thrown.details?.['check']);
    },
  );
}

describe('an image that is forced on a stand-in', () => {
  it('lies there then, and is told why no round would have written it', async () => {
    const own = (world = await laneWorld());
    await own.keepImagesOf(SEPTEMBER, ['init_boot', 'boot']);
    const held = async (role: string, fingerprint: string, partition = 'init_boot') =>
      (await listImages()).find(
        (one) => one.role === role && one.fingerprint === fingerprint && one.partition === partition,
      )!.sha256;
    const force = async (sha256: string) => {
      const wrong = await forceJudged(LANE_PROFILE, sha256, 'init_boot_a');
      return [(await see()).state.images['init_boot_a']?.sha256, wrong.length] as const;
    };
    const [stock, boot, foreign] = [
      await held('stock', SEPTEMBER),
      await held('stock', SEPTEMBER, 'boot'),
      await own.keepPatched(AUGUST),
    ];
    expect(await force(stock)).toEqual([stock, 0]);
    expect(await force(boot)).toEqual([boot, 1]);
    expect((await force(foreign))[1]).toBeGreaterThan(0);
  });
});

describe('an image of the vault', () => {
  it('goes where it belongs, and nowhere else', async () => {
    const { own, round } = await at('stock-images-back', 'write-stock');
    await own.keepImagesOf(AUGUST, ['init_boot', 'boot']);
    await own.keepImagesOf(SEPTEMBER, ['boot']);
    expect(await wrong(round, {})).toBeNull();
    expect(await wrong(round, { role: 'patched' })).toBeNull();
    expect(await wrong(round, {}, { mode: 'userspace' })).toBeNull();
    expect(await wrong(round, {}, { mode: 'system' })).toBeNull();
    expect(await wrong(round, { fingerprint: AUGUST })).toBe('build');
    expect(await wrong(round, { fingerprint: AUGUST }, { build: AUGUST, slot: 'b' })).toBeNull();
    expect(await wrong(round, { partition: 'boot' })).toBe('partition');
    expect(await wrong(round, { partition: 'boot' }, { partition: 'boot' })).toBeNull();
    expect(await wrong(round, {}, { slot: null })).toBe('slot');
    expect(await wrong(round, { sizeBytes: 256 * 1024 })).toBeNull();
    expect(await wrong(round, { sizeBytes: 256 * 1024 + 1 })).toBe('size');
    expect(await wrong(round, {}, { mode: 'sideload' })).toBe('mode');
  });

  it('is held back by an update that merges on the other slot only, and by none on its own', async () => {
    const { own, round } = await at('stock-images-back', 'write-stock');
    const updating = (value: string) =>
      insertFacts(own.handset, [{ key: 'snapshot', value }], {
        source: 'link',
        witness: 'system',
        at: Date.now() + 1000,
      });
    for (const [state, other] of [
      ['none', null],
      ['snapshotted', null],
      ['merging', 'snapshot'],
    ] as const) {
      await updating(state);
      expect(await wrong(round, {}, { slot: 'a' }), state).toBeNull();
      expect(await wrong(round, {}, { slot: 'b' }), state).toBe(other);
    }
  });
});

describe('an image of a whole build', () => {
  it('belongs by its package, in the mode that its partition is written in', async () => {
    const { round } = await at('whole-build-then-root', 'write-build');
    const part = (partition: string, about: Partial<AboutToWrite> = {}) =>
      wrong(round, { partition, fingerprint: OCTOBER }, { partition, ...about });
    for (const name of ['init_boot', 'boot', 'radio']) expect(await part(name), name).toBeNull();
    expect(await part('system', { mode: 'userspace', logical: true })).toBeNull();
    expect(await part('system', { mode: 'bootloader', logical: true })).toBe('mode');
    expect(await part('system', { mode: 'bootloader', logical: false })).toBeNull();
    expect(await part('bootloader')).toBeNull();
    expect(await part('radio', { mode: 'userspace' })).toBe('mode');
    expect(await part('bootloader', { mode: 'download' })).toBeNull();
    // what runs now is no part of it
    expect(await wrong(round, { fingerprint: SEPTEMBER }, {})).toBe('build');
    // out of the package itself, and too large for its place
    expect(await wrong(round, { vault: false }, { partition: 'boot' })).toBeNull();
    expect(await wrong(round, { vault: false, sizeBytes: 1 << 30 }, { partition: 'boot' })).toBe('size');
  });

  it('with a bootloader below the fuse is never sent', async () => {
    const { own, round } = await at('whole-build-then-root', 'write-build', { level: () => 2 });
    const loader = () =>
      wrong(round, { partition: 'bootloader', fingerprint: OCTOBER }, { partition: 'bootloader' });
    expect(await loader()).toBeNull();
    await insertFacts(own.handset, [{ key: 'antiRollback', value: '3' }], {
      source: 'link',
      witness: 'bootloader',
      at: Date.now() + 1000,
    });
    expect(await loader()).toBe('floor');
  });
});
