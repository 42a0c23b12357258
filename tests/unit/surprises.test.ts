import { access } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { replan } from '@/server/rounds/opening';
import { runStep } from '@/server/rounds/over-link';
import { roundView } from '@/server/rounds/round-view';
import { chooseFact } from '@/server/services/fact-service';
import { practiceView } from '@/server/services/practice-service';
import { setCable, touchScreen } from '@/server/services/stand-in-service';
import { StandInStore } from '@/stand-in/stand-in-store';
import { ended } from '../fixtures/ended-job';
import { codeOf } from '../fixtures/expect-error';
import { begin, hold, laneLink, press, see, seen, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { pieces } from '../fixtures/server-world';

/* What comes over a real stand-in in the middle of its work, and what a round makes of it. */

let world: LaneWorld | null = null;
afterEach(async () => {
  delete process.env.ETERNO_PRACTICE;
  await world?.end();
  world = null;
});
const updating = { rooted: ['a'], builds: { a: SEPTEMBER, b: SEPTEMBER }, offer: OCTOBER } as const;

describe('a surprise', () => {
  it('in a write takes the cable, is held by the round, and is told in its debrief', async () => {
    world = await laneWorld({ surprises: ['cable-out'] });
    const told = { kind: 'slip', work: 8, seed: 0, pace: 1, slip: 'cable-out', odds: null };
    process.env.ETERNO_PRACTICE = JSON.stringify({ ...told, since: 0, home: 'http://127.0.0.1' });
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    await walk(world, round, { until: 'write-root' });
    await ended(await runStep(round, await version(round)));
    expect((await see()).state.cable).toBe(false);
    expect((await see()).came).toEqual(['cable-out']);
    await setCable(LANE_PROFILE, true);
    await walk(world, round);
    expect((await roundView(round)).state).toBe('closed');
    const { surprises, debriefs } = await practiceView();
    expect(surprises).toEqual({ came: ['cable-out'], left: 0 });
    const [one] = debriefs;
    expect(one!.steps.find(({ key }) => key === 'write-root')).toMatchObject({ verdict: 'wrong' });
    // nothing that was shown or done is anything but right, and the truth bears out what was said
    expect(one!.steps.flatMap(({ untrue }) => untrue)).toEqual([]);
    expect(one).toMatchObject({ wrong: 1, wipes: 0 });
    // it does not come twice, whatever becomes of the process
    expect(await new StandInStore(join(world.dir, 'stand-in', LANE_PROFILE)).readSurprises()).toEqual({
      waiting: [],
      came: ['cable-out'],
    });
  });
  it('takes half of a package that is sent', async () => {
    world = await laneWorld({ surprises: ['cable-out'], builds: { a: SEPTEMBER, b: SEPTEMBER } });
    await hold(['power'], 'off');
    await hold(['power', 'up'], 'recovery');
    const menu = async () => (await see()).screen;
    for (let screen = await menu(); screen.kind === 'menu'; screen = await menu()) {
      if (screen.menu[screen.chosen]?.includes('sideload')) break;
      await press('down');
    }
    await press('power');
    await seen('it waits', ({ state }) => state.mode === 'sideload');
    const bytes = await world.packageOf(OCTOBER);
    expect(await codeOf(() => laneLink().sideload(bytes.length, pieces(bytes), () => undefined))).toBe(
      'link-lost',
    );
    expect((await see()).state).toMatchObject({ cable: false, mode: 'sideload', builds: { b: SEPTEMBER } });
    const incoming = new StandInStore(join(world.dir, 'stand-in', LANE_PROFILE)).incomingPath;
    await expect(access(incoming)).rejects.toThrow();
  });
  it('selects the other slot: nothing is written, and the way leads on from the one that is active', async () => {
    world = await laneWorld({ surprises: ['slot-changed'], builds: { a: SEPTEMBER, b: SEPTEMBER } });
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    // what the system said of its slot and what the bootloader says are held against each other
    expect(await codeOf(() => walk(world!, round))).toBe('refused');
    expect((await see()).state).toMatchObject({ mode: 'bootloader', active: 'b' });
    await chooseFact(world.handset, 'currentSlot', 'b', 'the bootloader says so');
    await walk(world, round);
    const held = await roundView(round);
    expect(held.steps.find(({ key }) => key === 'write-root')!.state).toBe('failed');
    const untouched = (await see()).state.images;
    for (const slot of ['a', 'b']) expect(untouched[`init_boot_${slot}`]!.patchedBy).toBeNull();
    await replan(round, await version(round));
    await walk(world, round);
    expect((await roundView(round)).state).toBe('closed');
    expect((await see()).state).toMatchObject({ running: { slot: 'b', rooted: true }, data: { wipes: 0 } });
  });
  it('lets the root prompt go away, once', async () => {
    world = await laneWorld({ rooted: ['a'], surprises: ['prompt-gone'] });
    expect(await laneLink().root()).toMatchObject({ granted: false, reason: 'denied' });
    expect((await see()).came).toEqual(['prompt-gone']);
    const again = laneLink().root();
    await seen('it asks', ({ state }) => state.rootRequest === 'asked');
    await press('up');
    expect(await again).toMatchObject({ granted: true });
  });
  it('restarts a handset on which an update waits', async () => {
    world = await laneWorld({ ...updating, surprises: ['restarts-itself'] });
    await touchScreen(LANE_PROFILE, 'take whole update');
    await seen('it waits', ({ state }) => state.update !== null);
    await touchScreen(LANE_PROFILE, 'later');
    await seen('the new build', ({ state }) => state.running?.build === OCTOBER);
    expect((await see()).state).toMatchObject({ running: { rooted: false } });
    expect((await see()).came).toEqual(['restarts-itself']);
  });
  it('takes the update though nobody touched it', async () => {
    world = await laneWorld({ ...updating, surprises: ['own-update'] });
    await seen('its own update', ({ state }) => state.update?.build === OCTOBER);
    expect((await see()).came).toEqual(['own-update']);
  });
});
