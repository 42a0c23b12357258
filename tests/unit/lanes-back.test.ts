import { afterEach, describe, expect, it } from 'vitest';
import { putStockBack, runStep } from '@/server/rounds/over-link';
import { noteBackup, noteEdge } from '@/server/services/record-service';
import { roundView } from '@/server/rounds/round-view';
import { benchRows } from '@/server/services/bench-service';
import { tellRoot } from '@/server/services/root-history';
import { reportSlot } from '@/server/services/slot-service';
import { forceImage } from '@/server/services/stand-in-service';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { begin, choose, hold, see, seen, stepNow, version, walk } from '../fixtures/lane-walk';
import { demoHandset, profileOf } from '@/demo/demo-stand-in';
import { HANDSETS } from '@/demo/world';
import { ended } from '../fixtures/ended-job';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { lifeboat } from '../fixtures/lifeboat';

/* Lanes through a recovery, down by sideload, and back to stock and locked. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
const backup = (own: LaneWorld) =>
  noteBackup({ handsetId: own.handset, what: 'files', place: 'off the handset', note: '', parts: null });
const idOf = (fingerprint: string) => fingerprint.split('/')[3]!;

const SLATE = { slotCount: 1, rootPartition: 'boot', hasUserspace: false, recoveryHome: 'recovery' } as const;

describe('through a custom recovery', () => {
  it('entered at once, root installed from its menu and read back', async () => {
    world = await laneWorld({ profile: SLATE });
    await lifeboat();
    const round = await begin(world, 'first root', { lane: 'through-the-recovery' });
    const walked = await walk(world, round);
    expect(walked.indexOf('recovery')).toBe(walked.indexOf('write-recovery') + 1);
    expect((await see()).state).toMatchObject({ running: { rooted: true }, data: { wipes: 0 } });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('a start in between puts the stock recovery back, and the step says so', async () => {
    world = await laneWorld({
      profile: { ...SLATE, restoresRecovery: true },
      facts: { restoresRecovery: 'true' },
    });
    await lifeboat();
    const round = await begin(world, 'first root', { lane: 'through-the-recovery' });
    await walk(world, round, { until: 'recovery' });
    expect((await roundView(round)).interlock).toMatchObject({ opens: 'going into the recovery' });
    await choose(/^Start the system/);
    await seen('the system', (view) => view.state.mode === 'system');
    expect((await see()).state.images['recovery_a']!.recovery).toBeNull();
    await walk(world, round, { until: 'root-zip' });
    const zip = await ended(await runStep(round, await version(round)));
    expect(zip.state).toBe('failed');
  });
});

describe('sideload', () => {
  it('down an edge that its maker allows, over fresh data', async () => {
    world = await laneWorld({ profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] } });
    await backup(world);
    await noteEdge(world.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'yes',
      bootloader: null,
      note: '',
    });
    const round = await begin(world, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true });
    await walk(world, round);
    expect((await see()).state).toMatchObject({
      active: 'b',
      running: { slot: 'b', build: AUGUST },
      data: { wipes: 1 },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('is refused by a handset whose maker does not, and nothing has changed', async () => {
    world = await laneWorld();
    await backup(world);
    // told wrongly by somebody: the handset knows better
    await noteEdge(world.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'yes',
      bootloader: null,
      note: '',
    });
    const round = await begin(world, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true });
    await walk(world, round);
    const step = (await stepNow(round))!;
    expect(step).toMatchObject({ key: 'sideload', state: 'failed' });
    expect(step.evidence[0]!.what).toContain('older than the installed build');
    expect((await see()).state).toMatchObject({ builds: { a: SEPTEMBER }, data: { wipes: 0 } });
  });

  it('is no way where no edge is known', async () => {
    world = await laneWorld();
    expect(
      await codeOf(() => begin(world!, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true })),
    ).toBe('refused');
  });
});

describe('back to stock and locked', () => {
  it('is refused over a slot that is not the maker’s, and done when every slot is', async () => {
    world = await laneWorld({ rooted: ['a', 'b'], facts: { unlockAllowed: 'on' } });
    await backup(world);
    const round = await begin(world, 'lock again', { wipe: true });
    await walk(world, round, { until: 'lock', reasons: ['index'] });
    const held = await roundView(round);
    expect(held.checks.find((check) => check.id === 'makers-own')).toMatchObject({
      verdict: 'holds',
      overridable: false,
    });
    await walk(world, round, { reasons: ['index'] });
    expect((await see()).state).toMatchObject({ locked: true, data: { wipes: 1 } });
    expect((await roundView(round)).state).toBe('closed');
  });

  it.each(HANDSETS.map((one) => [one.name, one.profile] as const))(
    'as %s of the demo it writes stock, starts, is seen, and only then locks',
    async (_, name) => {
      const { slotCount, rootPartition, recoveryHome, hasDownload, hasUserspace, ...own } = profileOf(
        demoHandset(name),
      );
      const { mergesUpdates, restoresRecovery, startsOnce, unlockPath, unlockCode } = own;
      world = await laneWorld({
        rooted: slotCount === 1 ? ['a'] : ['a', 'b'],
        profile: {
          ...{ slotCount, rootPartition, recoveryHome, hasDownload, hasUserspace },
          ...{ mergesUpdates, restoresRecovery, startsOnce, unlockPath, unlockCode },
        },
        facts: { unlockAllowed: 'on' },
      });
      await backup(world);
      const round = await begin(world, 'lock again', { wipe: true });
      const walked = await walk(world, round, { reasons: ['index'] });
      const order = [/^write-/, /^start$/, /^lock$/].map((key) => walked.findIndex((one) => key.test(one)));
      expect(order).toEqual([...order].sort((x, y) => x - y));
      expect(order).not.toContain(-1);
      const { locked, images } = (await see()).state;
      expect(locked).toBe(true);
      expect(Object.values(images).filter(({ patchedBy }) => patchedBy !== null)).toEqual([]);
      expect((await roundView(round)).state).toBe('closed');
    },
    120_000,
  );

  it('stays refused while one partition is not stock, by checks that nobody can go past', async () => {
    world = await laneWorld({ rooted: ['a'], facts: { unlockAllowed: 'on' } });
    await backup(world);
    const round = await begin(world, 'lock again', { wipe: true });
    await walk(world, round, { until: 'lock', reasons: ['index'] });
    const patched = await world.keepPatched(SEPTEMBER);
    await reportSlot({
      handsetId: world.handset,
      slot: 'b',
      partition: 'init_boot',
      sha256: patched,
      certainty: 'read',
      reason: 'read back',
    });
    expect((await roundView(round)).checks.find((check) => check.id === 'makers-own')).toMatchObject({
      verdict: 'fails',
      overridable: false,
    });
    expect((await errorOf(async () => runStep(round, await version(round)))).code).toBe('refused');
    expect((await see()).state.locked).toBe(false);
  });

  it('without locking is the stock image, written once', async () => {
    world = await laneWorld({ rooted: ['a'] });
    const round = await begin(world, 'return to stock');
    await walk(world, round, { until: 'start' });
    // what lies there is known with the write, before anything starts
    expect((await benchRows())[0]!.root).toBe('stock');
    await walk(world, round);
    expect((await see()).state.running).toMatchObject({ build: SEPTEMBER, rooted: false });
    expect((await benchRows())[0]!.root).toBe('stock');
  });
});

describe('in the middle of a round', () => {
  it('a patched image of another month loops, and the vault brings it back', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'start' });
    const other = await world.keepPatched(AUGUST);
    await forceImage(LANE_PROFILE, other, 'init_boot_a');
    await ended(await runStep(round, await version(round)));
    expect((await stepNow(round))!.state).toBe('failed');
    await hold(['down', 'power'], 'bootloader');
    expect(await ended(await putStockBack(round, await version(round)))).toMatchObject({ state: 'done' });
    expect((await stepNow(round))!.key).toBe('write-root');
    await walk(world, round);
    expect((await roundView(round)).state).toBe('closed');
    expect((await errorOf(async () => runStep(round, await version(round)))).code).toBe('conflict');
  });
});

describe('a repair', () => {
  it('of a handset that loops begins at its bootloader and ends in its system, data kept', async () => {
    world = await laneWorld({ rooted: ['a'] });
    await world.keepPatched(SEPTEMBER);
    await forceImage(LANE_PROFILE, await world.keepPatched(AUGUST), 'init_boot_a');
    await hold(['power'], 'off');
    await hold(['power'], 'looping');
    await tellRoot(world.handset, null, 'broken', 'test');
    const round = await begin(world, 'repair');
    const walked = await walk(world, round);
    expect(walked).not.toContain('read-facts');
    // its own patched image is in the vault, so it comes back with root
    expect(walked).toContain('write-root');
    expect((await see()).state).toMatchObject({
      mode: 'system',
      running: { build: SEPTEMBER, rooted: true },
      data: { wipes: 0 },
    });
    expect((await roundView(round)).state).toBe('closed');
  });
});
