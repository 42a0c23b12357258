import { afterEach, describe, expect, it } from 'vitest';
import { closeCaseSchema, markSchema, rescueQuerySchema } from '@/contracts/rescue-inputs';
import { believe } from '@/core/rescue/belief';
import type { SymptomId } from '@/core/words/rescue';
import { CLASS_IDS } from '@/core/ways/classes';
import { eventsOf } from '@/server/repositories/event-repository';
import { NEW_CASE } from '@/contracts/rescue-view';
import type { Closing } from '@/server/services/rescue-cases';
import { closeCase, keptCase, markIt, readAnswers, saveCase } from '@/server/services/rescue-cases';
import { removeHandset } from '@/server/services/handset-life';
import { rescueView } from '@/server/services/rescue-service';
import { setBattery, setCable } from '@/server/services/stand-in-service';
import { codeOf } from '../fixtures/expect-error';
import { begin, laneLink, seen, version, walk } from '../fixtures/lane-walk';
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
    expect(handset).toEqual({ id: world.handset, name: 'North', link: true });
  });
  it('remembers what it was before on this very handset', async () => {
    world = await laneWorld();
    const closed = {
      state: { ...NEW_CASE, symptoms: ['not-listed'] },
      rung: null,
      repair: 'free-line',
      cause: 'driver',
    } as const;
    await closeCase({ ...closed, handsetId: null, like: 'two-slots-boot' });
    expect((await chosen(world)).record.before).toEqual([]);
    await closeCase({ ...closed, handsetId: world.handset, like: null });
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
    const { atHand } = await chosen(world);
    expect(atHand['stock-image']).toEqual([expect.stringMatching(/init_boot/)]);
    expect(atHand['recovery-again']).toEqual([]);
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
  const told: Closing = {
    handsetId: null,
    like: 'two-slots-boot',
    state: {
      ...NEW_CASE,
      symptoms: ['loops'],
      answers: [{ check: 'asks-wipe', answer: 'no', by: 'you', saw: null }],
      tried: ['wait'],
    },
    repair: 'stock-image',
    rung: null,
    cause: 'root-image',
  };
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
  const answer = { check: 'asks-wipe', answer: 'no', by: 'you', saw: null };
  it.each([
    ['a symptom that is none', { state: { ...told.state, symptoms: ['sad'] } }],
    [
      'an answer of another question',
      { state: { ...told.state, answers: [{ ...answer, answer: 'stock' }] } },
    ],
    ['a question that is none', { state: { ...told.state, answers: [{ ...answer, check: 'mood' }] } }],
    ['a line that is too long', { state: { ...told.state, answers: [{ ...answer, saw: 'x'.repeat(301) }] } }],
    ['a cable of a whole story', { state: { ...told.state, cable: 'x'.repeat(61) } }],
    ['a rung that is none', { rung: 'shake' }],
    ['a repair that is none', { repair: 'pray' }],
    ['a cause that is none', { cause: 'fate' }],
  ])('is not taken with %s', async (_what, change) => {
    expect(await closeCaseSchema.isValid(told)).toBe(true);
    expect(await closeCaseSchema.isValid({ ...told, ...change })).toBe(false);
  });
  it('the page takes a handset or a class, and nothing else', async () => {
    expect(await rescueQuerySchema.isValid({})).toBe(true);
    expect(await rescueQuerySchema.isValid({ like: 'two-slots-boot' })).toBe(true);
    expect(await rescueQuerySchema.isValid({ like: 'a toaster' })).toBe(false);
    expect(await rescueQuerySchema.isValid({ handset: '../..' })).toBe(false);
  });
});

describe('a case that is left', () => {
  const state = {
    ...NEW_CASE,
    symptoms: ['loops', 'logo'],
    answers: [{ check: 'asks-wipe', answer: 'no', by: 'you', saw: null }],
    tried: ['wait'],
    cable: 'the red one',
  } as const;
  it('is kept as it stands, from when it began, and goes with its handset', async () => {
    world = await laneWorld();
    const of = { handsetId: world.handset, like: null };
    await saveCase({ ...of, state: { ...state, answers: [] } });
    const { openedAt } = (await keptCase(of))!;
    await saveCase({ ...of, state });
    expect((await chosen(world)).kept).toEqual({ ...state, openedAt, round: null });
    const view = await rescueView(null, null);
    expect(view.handsets.find(({ id }) => id === world!.handset)).toMatchObject({ open: true });
    expect(view.classes.every(({ open }) => !open)).toBe(true);
    await removeHandset(world.handset);
    expect(await keptCase(of)).toBeNull();
  });
  it('of a class is another one, and a case of which nothing is said is none', async () => {
    server = await freshServer();
    const of = { handsetId: null, like: 'two-slots-boot' as const };
    await saveCase({ ...of, state });
    expect((await rescueView(null, 'two-slots-boot')).chosen!.kept).toMatchObject({
      symptoms: ['loops', 'logo'],
    });
    expect((await rescueView(null, 'two-slots-init-boot')).chosen!.kept).toBeNull();
    await saveCase({ ...of, state: NEW_CASE });
    expect(await keptCase(of)).toBeNull();
    expect(await codeOf(() => saveCase({ handsetId: null, like: null, state }))).toBe('bad-field');
  });
  it('is over when it is closed, and says how it is known that the handset is back', async () => {
    world = await laneWorld();
    const of = { handsetId: world.handset, like: null };
    await saveCase({ ...of, state });
    const closed = await closeCase({ ...of, state, repair: 'stock-image', rung: null, cause: 'root-image' });
    // it runs, and answers
    expect(closed).toEqual({ by: 'link', marks: [] });
    expect((await chosen(world)).past).toEqual([
      {
        at: expect.any(Number),
        minutes: 1,
        symptoms: ['loops', 'logo'],
        helped: { repair: 'stock-image', rung: null },
        cause: 'root-image',
        asked: state.answers.length,
        tried: [...state.tried],
      },
    ]);
    expect(await keptCase(of)).toBeNull();
    await setCable(LANE_PROFILE, false);
    await expect
      .poll(
        async () => (await closeCase({ ...of, state, repair: 'stock-image', rung: null, cause: null })).by,
        { timeout: 20_000 },
      )
      .toBe('you');
    expect((await closeCase({ ...of, state, repair: null, rung: null, cause: null })).by).toBeNull();
  });
  it('remembers what cured a line, for its cable and its computer', async () => {
    server = await freshServer();
    const of = { handsetId: null, like: 'two-slots-boot' as const };
    await closeCase({
      ...of,
      state: { ...NEW_CASE, symptoms: ['not-listed'], cable: 'the red one', host: 'laptop' },
      repair: null,
      rung: 'other-cable',
      cause: 'cable',
    });
    expect((await rescueView(null, null)).cures).toEqual([
      { rung: 'other-cable', cable: 'the red one', host: 'laptop' },
    ]);
  });
});

describe('what was to blame', () => {
  it('is marked for the next plan: a module and a kit on this build, nothing where nothing is known', async () => {
    world = await laneWorld({ rooted: ['a'], state: { modules: { on: true, ids: ['torch'] } } });
    const round = await begin(world, 'prove root');
    await walk(world, round);
    const close = async (cause: 'module' | 'kit' | 'data') =>
      closeCase({
        handsetId: world!.handset,
        like: null,
        state: { ...NEW_CASE, symptoms: ['loops'] },
        repair: 'stock-image',
        rung: null,
        cause,
      });
    const { marks } = await close('module');
    expect(marks).toEqual([{ kind: 'module', module: 'torch' }]);
    const before = (await chosen(world)).record.moduleChance!;
    await markIt(world.handset, marks[0]!);
    expect((await chosen(world)).record.moduleChance!).toBeGreaterThan(before);
    expect((await close('data')).marks).toEqual([]);
    expect(await codeOf(() => markIt(world!.handset, { kind: 'kit', item: 'none 1.0' }))).toBe('not-found');
  });
});

describe('a mark', () => {
  const handsetId = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001';
  it.each([
    [{ kind: 'module', module: 'torch' }, true],
    [{ kind: 'module' }, false],
    [{ kind: 'module', module: ' ' }, false],
    [{ kind: 'kit', item: 'burrow 7.3' }, true],
    [{ kind: 'kit', module: 'torch' }, false],
    [{ kind: 'way-down', from: 'B', to: 'A' }, true],
    [{ kind: 'way-down', from: 'B' }, false],
    [{ kind: 'weather' }, false],
  ])('%j names what it marks: %s', async (mark, good) => {
    expect(await markSchema.isValid({ handsetId, mark })).toBe(good);
  });
});

describe('answers that are read', () => {
  it('come from the handset itself, in the mode that it is in, and from a text of its own alone', async () => {
    world = await laneWorld();
    const of = async (text: string | null, ...symptoms: readonly SymptomId[]) =>
      Object.fromEntries(
        (await readAnswers(world!.handset, text, symptoms)).map(({ check, answer }) => [check, answer]),
      );
    expect(await of(null, 'no-root')).toEqual({ 'same-build': 'same', 'root-command': 'none' });
    // one that answers from its system has started
    expect(await of(null, 'loops')).toEqual({ 'wait-first': 'starts' });
    await laneLink().restart('bootloader');
    await seen('its bootloader', ({ state }) => state.mode === 'bootloader');
    expect(await of(null, 'loops', 'write-refused')).toEqual({
      'opens-bootloader': 'yes',
      'unlocked-line': 'yes',
      'slot-lines': 'plain',
      'update-line': 'none',
    });
    expect(await of('(bootloader) unlocked:no', 'write-refused')).toEqual({ 'unlocked-line': 'no' });
    const code = (text: string | null) => codeOf(() => readAnswers(world!.handset, text, ['loops']));
    expect(await code('good morning')).toBe('bad-field');
    expect(await code('(bootloader) serialno:ANOTHER1\n(bootloader) snapshot-update-status:none')).toBe(
      'refused',
    );
    await setCable(LANE_PROFILE, false);
    expect(await code(null)).toBe('link-lost');
  });
});
