import { afterEach, describe, expect, it } from 'vitest';
import { onSlot } from '@/core/handset/builds';
import { noteBackup } from '@/server/services/record-service';
import { planFor } from '@/server/services/plan-service';
import { runStep } from '@/server/rounds/over-link';
import { rootChanges } from '@/server/services/root-history';
import { pressKey, setCable } from '@/server/services/stand-in-service';
import { listEvents } from '@/server/repositories/event-repository';
import { benchRows } from '@/server/services/bench-service';
import { cancelJob, listJobs } from '@/server/services/jobs';
import { roundView } from '@/server/rounds/round-view';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { ended } from '../fixtures/ended-job';
import { begin, choose, rest, see, seen, stepNow, version, walk } from '../fixtures/lane-walk';
import { errorOf } from '../fixtures/expect-error';
import { kitZip } from '../fixtures/images';
import { pieces, sha256 } from '../fixtures/server-world';
import { storeKit } from '@/server/services/image-service';
import { listTrials } from '@/server/repositories/record-repository';

/* Whole lanes that begin from stock, or end there. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
const backup = (own: LaneWorld) =>
  noteBackup({ handsetId: own.handset, what: 'files', place: 'off the handset', note: '', parts: null });
const rootOnDisk = async (partition: string) =>
  (await see()).state.images[onSlot(partition, (await see()).state.active)]!.patchedBy;

describe('start once, then make lasting', () => {
  it('tries the image from memory before anything is written', async () => {
    world = await laneWorld({
      profile: { rootPartition: 'boot', startsOnce: true },
      facts: { startsOnce: 'true' },
    });
    const round = await begin(world, 'first root', { lane: 'start-once-make-lasting' });
    await walk(world, round, { until: 'make-lasting' });
    expect((await see()).state.running?.rooted).toBe(true);
    expect(await rootOnDisk('boot')).toBeNull();
    expect((await roundView(round)).interlock?.opens).toContain('lasting');
    // a second kit on the shelf: what was seen is of the one that was used
    const other = await kitZip({ version: '9.9', versionCode: 990 });
    await storeKit(sha256(other), pieces(other), 'burrow-9.9.kit.zip');
    await walk(world, round);
    expect(await rootOnDisk('boot')).not.toBeNull();
    expect((await roundView(round)).state).toBe('closed');
    const trials = (await listTrials()).filter(({ shelf }) => shelf === 'kit');
    expect(trials.map(({ item, outcome }) => [item, outcome])).toEqual([['burrow 7.3', 'worked']]);
  });
});

describe('unlocking', () => {
  it('by a code that comes by mail, then rooted', async () => {
    world = await laneWorld({
      state: { locked: true, unlockSwitch: 'off' },
      profile: { unlockPath: 'mailed code', unlockCode: 'HILL-4711' },
      facts: { unlockPath: 'mailed code', unlockAllowed: 'off' },
    });
    await backup(world);
    const round = await begin(world, 'first root', { wipe: true });
    const told: string[] = [];
    const walked = await walk(world, round, {
      between: async () => void told.push(JSON.stringify([await roundView(round), await listJobs()])),
    });
    told.push(JSON.stringify([await listEvents({}), await benchRows()]));
    // neither the code nor the serial stands in any text on the way
    for (const text of told) expect(text).not.toMatch(/HILL-4711|SERIAL42/);
    expect(walked.slice(0, 8)).toContain('unlock-switch');
    expect(walked.indexOf('ask-code')).toBeLessThan(walked.indexOf('unlock'));
    expect((await see()).state).toMatchObject({
      locked: false,
      data: { wipes: 1 },
      running: { rooted: true },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('by keys in download mode, then the set with the patched image, erasing nothing more', async () => {
    world = await laneWorld({
      state: { locked: true },
      profile: {
        slotCount: 1,
        rootPartition: 'boot',
        hasDownload: true,
        hasUserspace: false,
        unlockPath: 'key chord',
        recoveryHome: 'recovery',
      },
      facts: { unlockPath: 'key chord', downloadMode: 'true', unlockAllowed: 'on' },
    });
    await backup(world);
    const round = await begin(world, 'first root', { lane: 'firmware-set-patched', wipe: true });
    const unlockByKeys = async () => {
      await pressKey(LANE_PROFILE, 'up', true);
      await seen(
        'its question',
        ({ screen }) => screen.kind === 'menu' && screen.menu.some((one) => /^Unlock it/.test(one)),
      );
      await pressKey(LANE_PROFILE, 'up', false);
      await choose(/^Unlock it/);
    };
    await walk(world, round, { hands: { unlock: unlockByKeys } });
    expect((await see()).state).toMatchObject({
      locked: false,
      data: { wipes: 1 },
      running: { rooted: true },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it.each([
    ['by a command', {}, {}, {}],
    [
      'by its keys',
      {
        slotCount: 1,
        rootPartition: 'boot',
        hasDownload: true,
        hasUserspace: false,
        unlockPath: 'key chord',
        recoveryHome: 'recovery',
      },
      { unlockPath: 'key chord', downloadMode: 'true' },
      { lane: 'firmware-set-patched' },
    ],
  ] as const)(
    '%s: with the cable out nothing is unlocked, and nothing is said of its root',
    async (_how, profile, facts, way) => {
      world = await laneWorld({
        state: { locked: true, unlockSwitch: 'on' },
        profile,
        facts: { unlockAllowed: 'on', ...facts },
      });
      await backup(world);
      const round = await begin(world, 'first root', { wipe: true, ...way });
      await walk(world, round, { until: 'unlock' });
      const known = await rootChanges(world.handset);
      await setCable(LANE_PROFILE, false);
      const job = await runStep(round, await version(round));
      // by its keys it is waited for, however often it is asked
      for (let asked = 0; asked < 40; asked += 1) await rest();
      if ((await stepNow(round))?.state === 'running') cancelJob(job.id);
      expect((await ended(job)).state).not.toBe('done');
      expect(await stepNow(round)).toMatchObject({ key: 'unlock', state: 'failed' });
      expect(await rootChanges(world.handset)).toEqual(known);
    },
  );

  it('with its switch greyed there is no way, and it says so', async () => {
    world = await laneWorld({
      state: { locked: true, unlockSwitch: 'greyed' },
      facts: { unlockAllowed: 'greyed' },
    });
    const planned = await planFor(world.handset, {
      goal: 'first root',
      target: null,
      limits: { computer: true, wipeAllowed: true, keepFuse: false },
    });
    expect(planned).toMatchObject({ plans: { plans: [] } });
    expect((await errorOf(() => begin(world!, 'first root', { wipe: true }))).message).toContain('greyed');
  });
});

describe('firmware sets', () => {
  const SLATE = {
    slotCount: 1,
    rootPartition: 'boot',
    hasDownload: true,
    hasUserspace: false,
    recoveryHome: 'recovery',
  } as const;
  it('keep data going up', async () => {
    world = await laneWorld({ profile: SLATE, facts: { downloadMode: 'true' } });
    const round = await begin(world, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER });
    await walk(world, round);
    expect((await see()).state).toMatchObject({
      data: { wipes: 0 },
      running: { build: OCTOBER, rooted: true },
    });
    expect((await roundView(round)).state).toBe('closed');
  });
  it('erase going down, because data of a newer build would not open', async () => {
    world = await laneWorld({ profile: SLATE, facts: { downloadMode: 'true' } });
    await backup(world);
    const round = await begin(world, 'downgrade', {
      lane: 'firmware-set-patched',
      target: AUGUST,
      wipe: true,
    });
    await walk(world, round);
    expect((await see()).state).toMatchObject({ data: { wipes: 1 }, running: { build: AUGUST } });
    expect((await roundView(round)).wipeLedger.some((line) => line.erases.length > 3)).toBe(true);
  });
  it('below the fuse are refused for good', async () => {
    world = await laneWorld({
      profile: SLATE,
      facts: { downloadMode: 'true', antiRollback: '3' },
      level: () => 2,
    });
    const round = await begin(world, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-set-patched', reasons: ['fuse'] }).catch(() => undefined);
    const step = await stepNow(round);
    expect(step!.key).toBe('check');
    expect((await roundView(round)).checks.find((check) => check.id === 'fuse')).toMatchObject({
      verdict: 'fails',
      overridable: false,
    });
    expect((await see()).state.builds.a).toBe(SEPTEMBER);
  });
});
