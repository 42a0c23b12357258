import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import type { Scene } from '@/core/practice/scene';
import { PRACTICE_WEIGHT, TROUBLE_WORLD } from '@/core/practice/scene';
import { runStep } from '@/server/rounds/over-link';
import { learnt, slipsHere } from '@/server/services/learnt-service';
import { switchCable } from '@/server/services/cable-service';
import { oddsHere } from '@/server/services/practice-odds';
import { ownPractice } from '@/server/services/practice-self';
import { askHint, openPractice, practiceView, weighSlips } from '@/server/services/practice-service';
import { addSlips, slipsOfPractice } from '@/server/services/practice-slips';
import { closeCase, saveCase } from '@/server/services/rescue-cases';
import { NEW_CASE } from '@/contracts/rescue-view';
import { setCable } from '@/server/services/stand-in-service';
import { ended } from '../fixtures/ended-job';
import { codeOf } from '../fixtures/expect-error';
import { begin, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld } from '../fixtures/lane-world';
import { freshServer } from '../fixtures/server-world';

/* How a round of practice went, and what of it comes back to one's own Eterno. */

let world: LaneWorld | null = null;
let server: Awaited<ReturnType<typeof freshServer>> | null = null;
afterEach(async () => {
  delete process.env.ETERNO_PRACTICE;
  await world?.end();
  await server?.end();
  [world, server] = [null, null];
});
const PLAIN = { seed: 0, pace: 20, slip: null, odds: null } as const;
const inPractice = (change: Partial<Scene> & { readonly since?: number } = {}) => {
  const scene = { ...PLAIN, kind: 'work', work: 5, since: 0, ...change };
  process.env.ETERNO_PRACTICE = JSON.stringify({ ...scene, home: 'http://127.0.0.1:3210' });
};

describe('a round of practice', () => {
  it('is held against its plan step by step, from what is kept of it', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    await walk(world, round, { until: 'write-root' });
    expect(await codeOf(() => askHint(round))).toBe('refused');
    inPractice();
    await askHint(round);
    delete process.env.ETERNO_PRACTICE;
    await setCable(LANE_PROFILE, false);
    await ended(await runStep(round, await version(round)));
    await setCable(LANE_PROFILE, true);
    await walk(world, round);
    // one's own rounds are no practice
    expect((await practiceView()).debriefs).toEqual([]);
    // nor is what was copied along
    inPractice({ since: Date.now() + 86_400_000 });
    expect((await practiceView()).debriefs).toEqual([]);
    inPractice();
    const { own, debriefs } = await practiceView();
    expect(own).toMatchObject({ home: 'http://127.0.0.1:3210', scene: { kind: 'work', work: 5 } });
    const [one] = debriefs;
    expect(one).toMatchObject({ roundId: round, state: 'closed', wipes: 0, wrong: 1 });
    const write = one!.steps.findIndex(({ key }) => key === 'write-root');
    expect(one!.steps[write]!.verdict).toBe('wrong');
    expect(one!.steps[write]!).toMatchObject({ hinted: true });
    expect(one!.steps[write]!.wrong).toHaveLength(1);
    // the same way with a handset of one's own: goal, limits and lane, and nothing of this world
    expect(one!.again).toMatchObject({ goal: 'first root', lane: 'one-image-once', computer: 'yes' });
    expect(Object.keys(one!.again)).not.toContain('handset');
    delete process.env.ETERNO_PRACTICE;
    const { same } = await practiceView(one!.again);
    expect(same).toEqual([{ name: 'North', href: expect.stringContaining('lane=one-image-once') as string }]);
    inPractice();
    expect(one!.texts[write]!.title).toContain('init_boot');
    expect(one!.steps.find(({ key }) => key === 'start')!.verdict).toBe('right');
    expect(one!.ways.filter(({ chosen }) => chosen)).toHaveLength(1);
    expect(await slipsHere(0)).toMatchObject({ 'cable lost': { slips: 1, chances: 2 } });
  });
  it('of trouble says what it was once its case is closed, and whether it was found', async () => {
    world = await laneWorld();
    inPractice({ kind: 'trouble', work: TROUBLE_WORLD });
    await mkdir(join(world.dir, 'run'), { recursive: true });
    await writeFile(
      join(world.dir, 'run', 'practice.json'),
      JSON.stringify({ pid: 1, url: '', fault: 'no-tries' }),
    );
    expect((await practiceView()).trouble).toEqual({ closed: [], was: null, wipes: 0 });
    const state = { ...NEW_CASE, symptoms: ['in-bootloader'] } as const;
    const of = { handsetId: world.handset, like: null, rung: null } as const;
    await closeCase({ ...of, state, repair: 'stock-image', cause: 'root-image' });
    expect((await practiceView()).trouble!.was).toMatchObject({ fault: 'no-tries', named: false });
    const asked = {
      ...state,
      answers: [{ check: 'slot-lines', answer: 'spent', by: 'you', saw: null }],
    } as const;
    const second = { ...asked, tried: ['stock-image'] } as const;
    await saveCase({ ...of, state: second });
    await closeCase({ ...of, state: second, repair: 'select-again', cause: 'tries' });
    const { was, closed } = (await practiceView()).trouble!;
    // what would have done is the smallest repair that mends it, on this very handset
    expect(was).toEqual({ fault: 'no-tries', named: true, least: { repair: 'select-again', minutes: 3 } });
    expect(closed.map((one) => [one.asked, one.tried])).toEqual([
      [1, ['stock-image']],
      [0, []],
    ]);
    // a copy of a handset of one's own brings older cases with it
    inPractice({ kind: 'trouble', work: null, since: closed[0]!.at + 1 });
    expect((await practiceView()).trouble).toEqual({ closed: [], was: null, wipes: 0 });
    // a piece of work has no trouble to tell of
    inPractice();
    expect((await practiceView()).trouble).toBeNull();
  });
  it('has no practice of its own', async () => {
    server = await freshServer();
    inPractice();
    expect(ownPractice()!.title.length).toBeGreaterThan(0);
    const scene = { ...PLAIN, kind: 'work', work: 5 } as const;
    const asked = { scene, handsetId: null, home: 'http://127.0.0.1' };
    expect(await codeOf(() => openPractice(asked))).toBe('refused');
    // no real handset is reached from here
    expect(await codeOf(() => switchCable(true))).toBe('refused');
    await switchCable(false);
    expect(await codeOf(() => weighSlips(true))).toBe('refused');
  });
});

describe('the odds of a month', () => {
  it('are by what came in one’s own record, and nothing where nothing did', async () => {
    world = await laneWorld();
    expect(await oddsHere()).toEqual({});
    const of = { handsetId: world.handset, like: null, rung: null, state: NEW_CASE } as const;
    for (let i = 0; i < 2; i += 1) await closeCase({ ...of, repair: 'kit-rests', cause: 'module' });
    await closeCase({ ...of, repair: 'root-again', cause: 'stock-on-disk' });
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    await walk(world, round, { until: 'write-root' });
    await setCable(LANE_PROFILE, false);
    await ended(await runStep(round, await version(round)));
    await setCable(LANE_PROFILE, true);
    // one that came counts as much as four that never did
    expect(await oddsHere()).toEqual({ 'cable-out': 5, 'bad-module': 9 });
  });
});

describe('slips of practice', () => {
  it('are added up apart from one’s own, and weigh only where that is wanted, as a share', async () => {
    server = await freshServer();
    const told = { 'early restart': { slips: 2, chances: 4 }, 'cable lost': { slips: 0, chances: 3 } };
    await addSlips(told);
    await addSlips(told);
    expect(await slipsOfPractice()).toMatchObject({
      weight: null,
      counts: { 'early restart': { slips: 4, chances: 8 }, 'cable lost': { slips: 0, chances: 6 } },
    });
    expect((await learnt()).slips['early restart']).toEqual({ slips: 0, chances: 0 });
    await weighSlips(true);
    expect((await learnt()).slips['early restart']).toEqual({
      slips: 4 * PRACTICE_WEIGHT,
      chances: 8 * PRACTICE_WEIGHT,
    });
    // what this store itself says to another stays its own
    expect((await slipsHere(0))['early restart']).toEqual({ slips: 0, chances: 0 });
    await weighSlips(false);
    expect((await learnt()).slips['early restart']).toEqual({ slips: 0, chances: 0 });
  });
  it('are counts, whatever another process says', async () => {
    server = await freshServer();
    const told = { 'early restart': { slips: -1, chances: 1e9 }, 'wrong slot': { slips: 0.5, chances: NaN } };
    await addSlips(told);
    const { counts } = await slipsOfPractice();
    expect(counts['early restart']).toEqual({ slips: 0, chances: 10_000 });
    expect(counts['wrong slot']).toEqual({ slips: 0, chances: 0 });
  });
});
