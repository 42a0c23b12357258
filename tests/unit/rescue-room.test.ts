import { afterEach, describe, expect, it } from 'vitest';
import { closeCaseSchema, rescueQuerySchema } from '@/contracts/rescue-inputs';
import { believe } from '@/core/rescue/belief';
import { CLASS_IDS } from '@/core/ways/classes';
import { eventsOf } from '@/server/repositories/event-repository';
import { closeCase, rescueView } from '@/server/services/rescue-service';
import { setBattery, setCable } from '@/server/services/stand-in-service';
import { codeOf } from '../fixtures/expect-error';
import { begin, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { freshServer } from '../fixtures/server-world';
import { runStep } from '@/server/rounds/over-link';
import { ended } from '../fixtures/ended-job';

/* What the store says of a handset in trouble, and what is kept of a case. */

let world: LaneWorld | null = null;
let server: Awaited<ReturnType<typeof freshServer>> | null = null;
afterEach(async () => {
  await world?.end();
  await server?.end();
  [world, server] = [null, null];
});
const chosen = async (own: LaneWorld) => (await rescueView(own.handset, null)).chosen!;

describe('the record of a handset in trouble', () => {
  it('has a write that was cut short, and the line that was lost with it', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    await walk(world, round, { until: 'write-root' });
    expect((await chosen(world)).record).toMatchObject({ writes: [], linesLost: 0 });
    await setCable(LANE_PROFILE, false);
    await ended(await runStep(round, await version(round)));
    const { record, roundId, works } = await chosen(world);
    expect(roundId).toBe(round);
    expect(record.writes).toEqual([{ what: 'root', proved: false, cutShort: true }]);
    expect(record.linesLost).toBe(1);
    const [first] = believe(record, { symptoms: ['loops'], answers: [] });
    expect(first!.cause).toBe('root-image');
    expect(works['stock-image']).toContain('root-image');
  });
  it('has no late write once its system was seen to start, and the root that was proved', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    await walk(world, round);
    const { record, handset } = await chosen(world);
    expect(record).toMatchObject({ writes: [], rootOnDisk: true, unlocked: true, slotCount: 2 });
    expect(handset).toEqual({ id: world.handset, name: 'North' });
  });
  it('remembers what it was before on this very handset', async () => {
    world = await laneWorld();
    const closed = {
      symptoms: ['not-listed'],
      checks: 1,
      tried: [],
      repair: 'free-line',
      cause: 'driver',
    } as const;
    await closeCase({ ...closed, handsetId: null });
    expect((await chosen(world)).record.before).toEqual([]);
    await closeCase({ ...closed, handsetId: world.handset });
    expect((await chosen(world)).record.before).toEqual(['driver']);
  });
  it('reads the battery where it answers', async () => {
    world = await laneWorld();
    await setBattery(LANE_PROFILE, 9);
    // what a page says of it may be a few seconds old
    await expect.poll(async () => (await chosen(world!)).record.batteryPercent, { timeout: 20_000 }).toBe(9);
  });
  it('says which repair lacks its file, and no more once it is there', async () => {
    world = await laneWorld();
    const lacks = async () => (await chosen(world!)).barred.map(({ repair }) => repair);
    expect(await lacks()).toEqual(expect.arrayContaining(['stock-image', 'whole-build', 'recovery-again']));
    await world.keepImagesOf(SEPTEMBER);
    const after = await lacks();
    expect(after).not.toContain('stock-image');
    expect(after).toContain('recovery-again');
  });
});

describe('a handset that was never here', () => {
  it('has repairs of its class, and an empty store is enough', async () => {
    server = await freshServer();
    for (const id of CLASS_IDS) {
      const view = await rescueView(null, id);
      expect(view.handsets).toEqual([]);
      expect(view.chosen).toMatchObject({ handset: null, barred: [] });
      const written = view.chosen!.works['stock-image'].includes('root-image');
      expect(written, id).toBe(id !== 'one-slot-download' && id !== 'locked-for-good');
      expect(view.chosen!.works.erase, id).toContain('data');
    }
    expect((await rescueView(null, null)).chosen).toBeNull();
    expect(await codeOf(() => rescueView('0b5a3d52-6f0e-4c52-9b57-1f6d2f1affff', null))).toBe('not-found');
  });
});

describe('a case that is closed', () => {
  const told = {
    handsetId: null,
    symptoms: ['loops'],
    checks: 2,
    tried: ['wait'],
    repair: 'stock-image',
    cause: 'root-image',
  } as const;
  it('is in the log, and weighs in the next one', async () => {
    server = await freshServer();
    await closeCase(told);
    await closeCase({ ...told, repair: null, cause: null });
    expect((await eventsOf('rescue-closed')).map(({ data }) => data.cause)).toEqual(['root-image', null]);
    expect((await rescueView(null, null)).counts).toEqual({ 'root-image': 1 });
    expect(
      await codeOf(() => closeCase({ ...told, handsetId: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1affff' })),
    ).toBe('not-found');
  });
  it.each([
    ['no symptom', { symptoms: [] }],
    ['a symptom that is none', { symptoms: ['sad'] }],
    ['a repair that is none', { repair: 'pray' }],
    ['a cause that is none', { cause: 'fate' }],
    ['a negative count', { checks: -1 }],
  ])('is not taken with %s', async (_what, change) => {
    expect(await closeCaseSchema.isValid({ ...told, symptoms: ['loops'], tried: ['wait'] })).toBe(true);
    expect(await closeCaseSchema.isValid({ ...told, ...change })).toBe(false);
  });
  it('the page takes a handset or a class, and nothing else', async () => {
    expect(await rescueQuerySchema.isValid({})).toBe(true);
    expect(await rescueQuerySchema.isValid({ like: 'two-slots-boot' })).toBe(true);
    expect(await rescueQuerySchema.isValid({ like: 'a toaster' })).toBe(false);
    expect(await rescueQuerySchema.isValid({ handset: '../..' })).toBe(false);
  });
});
