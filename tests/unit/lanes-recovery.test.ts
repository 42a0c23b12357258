import { afterEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readTar } from '@/core/formats/tar/reader';
import { onSlot } from '@/core/handset/builds';
import { backupsOf } from '@/server/repositories/record-repository';
import { planFor } from '@/server/services/plan-service';
import { noteBackup, noteEdge } from '@/server/services/record-service';
import { tellRoot } from '@/server/services/root-history';
import { roundView } from '@/server/rounds/round-view';
import { reportSlot } from '@/server/services/slot-service';
import { openInVault } from '@/server/vault/vault';
import { begin, hold, see, seen, walk, laneLink } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { lifeboat } from '../fixtures/lifeboat';
import { sha256 } from '../fixtures/server-world';

/*
 * Lanes by way of a recovery that is not written, from inside, with patching on the handset, and by erasing.
 */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
const SLATE = { slotCount: 1, rootPartition: 'boot', hasUserspace: false, recoveryHome: 'recovery' } as const;
const idOf = (fingerprint: string) => fingerprint.split('/')[3]!;
const evidenceOf = async (round: string, key: string) =>
  (await roundView(round)).steps.find((step) => step.key === key)!.evidence.map(({ what }) => what);
const backup = (own: LaneWorld) =>
  noteBackup({ handsetId: own.handset, what: 'files', place: 'off the handset', note: '', parts: null });
const push = (path: string, text: string) => laneLink().push(path, new TextEncoder().encode(text));

describe('a recovery started once', () => {
  it('takes an image of the data, installs root, and leaves nothing of itself', async () => {
    world = await laneWorld({ profile: { ...SLATE, startsOnce: true }, facts: { startsOnce: 'true' } });
    await lifeboat();
    await push('/storage/notes.txt', 'gate 4 is stiff');
    const round = await begin(world, 'first root', {
      lane: 'recovery-started-once',
      limits: { imageBackup: true },
    });
    const walked = await walk(world, round);
    expect(walked.indexOf('back-up-image')).toBeGreaterThan(walked.indexOf('recovery-once'));
    expect(walked.indexOf('back-up-image')).toBeLessThan(walked.indexOf('root-zip'));
    const { state } = await see();
    expect(state).toMatchObject({ running: { rooted: true }, data: { wipes: 0 } });
    expect(state.images['recovery_a']!.recovery).toBeNull();
    expect((await roundView(round)).state).toBe('closed');
    const kept = (await backupsOf(world.handset))[0]!;
    expect(kept).toMatchObject({ what: 'image-level', place: 'off the handset' });
    const source = await openInVault('data', /[0-9a-f]{64}/.exec(kept.note)![0]);
    const { members } = await readTar(source);
    expect(members.map(({ name }) => name)).toContain('data/storage/notes.txt');
    await source.close();
  });

  it('where an image of the data is wanted, lanes without a recovery are no way, and say why', async () => {
    world = await laneWorld({ profile: { ...SLATE, startsOnce: true }, facts: { startsOnce: 'true' } });
    await lifeboat();
    const limits = { computer: true, wipeAllowed: false, keepFuse: false, imageBackup: true };
    const planned = await planFor(world.handset, { goal: 'first root', target: null, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect(planned.plans.plans.map((plan) => plan.lane.id).sort()).toEqual([
      'recovery-started-once',
      'through-the-recovery',
    ]);
    expect(planned.plans.others.find((out) => out.lane.id === 'one-image-once')?.reason).toContain(
      'passes no recovery',
    );
  });
});

describe('a recovery that shares its partition', () => {
  it('goes into this build’s vendor_boot, from the bootloader and from inside, and opens', async () => {
    for (const [lane, step] of [
      ['write-a-recovery', 'write-recovery'],
      ['recovery-through-root', 'recovery-inside'],
    ] as const) {
      await world?.end();
      world = await laneWorld({ profile: { recoveryHome: 'vendor_boot' }, rooted: ['a'] });
      // where its recovery lives is read in this build's own image
      await world.keepImagesOf(SEPTEMBER, ['vendor_boot', 'init_boot']);
      await world.keepPatched(SEPTEMBER);
      await lifeboat();
      const round = await begin(world, 'keep a recovery', { lane });
      const walked = await walk(world, round);
      expect(walked.indexOf('rebuild-recovery')).toBeLessThan(walked.indexOf(step));
      const made = await world.putRecoveryIn(SEPTEMBER);
      const { state } = await see();
      expect(state.images['vendor_boot_a'], lane).toMatchObject({
        sha256: made,
        broken: null,
        fingerprint: SEPTEMBER,
        recovery: { name: 'Lifeboat 3.8' },
      });
      expect(state).toMatchObject({ running: { rooted: true }, data: { wipes: 0 } });
      expect((await roundView(round)).state, lane).toBe('closed');
    }
  });

  it('is written by hand with its own file, and held against the stock image that it went into', async () => {
    world = await laneWorld({ profile: { recoveryHome: 'vendor_boot' }, rooted: ['a'] });
    await world.keepImagesOf(SEPTEMBER, ['vendor_boot', 'init_boot']);
    await world.keepPatched(SEPTEMBER);
    await lifeboat();
    const round = await begin(world, 'keep a recovery', { lane: 'write-a-recovery' });
    await walk(world, round, { until: 'write-recovery' });
    const { hand } = await roundView(round);
    expect(hand?.file?.sha256).toBe(await world.putRecoveryIn(SEPTEMBER));
    expect(hand?.commands[0]?.command).toContain(`--stock vendor_boot-${idOf(SEPTEMBER)}.img`);
  });

  it('is written only when the way back is kept, which the plan sees to', async () => {
    for (const home of ['vendor_boot', 'recovery'] as const) {
      await world?.end();
      world = await laneWorld({ profile: { recoveryHome: home }, rooted: ['a'] });
      await world.keepImagesOf(SEPTEMBER, [home]);
      await lifeboat();
      const round = await begin(world, 'keep a recovery', { lane: 'write-a-recovery' });
      expect(await walk(world, round), home).toContain('take-stock');
      expect((await roundView(round)).state, home).toBe('closed');
    }
  });

  it('goes into boot, and root into the image that holds it: both are there at the end', async () => {
    world = await laneWorld({
      profile: { rootPartition: 'boot', recoveryHome: 'boot', systemAsRoot: false },
      rooted: ['a'],
    });
    await world.keepImagesOf(SEPTEMBER, ['boot']);
    await world.keepPatched(SEPTEMBER);
    await lifeboat();
    const round = await begin(world, 'keep a recovery', { lane: 'write-a-recovery' });
    const walked = await walk(world, round);
    expect(walked).toEqual(expect.arrayContaining(['rebuild-recovery', 'patch-with-recovery', 'write-root']));
    const { state } = await see();
    expect(state.images['boot_a']!.patchedBy).not.toBeNull();
    expect(state.images['boot_a']!.recovery).toMatchObject({ name: 'Lifeboat 3.8' });
    expect(state.images['boot_a']!.sha256).toBe(
      await world.keepPatchedOver(await world.putRecoveryIn(SEPTEMBER)),
    );
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('from inside', () => {
  it('a recovery is written with root and read back, then opened', async () => {
    world = await laneWorld({ profile: SLATE, rooted: ['a'] });
    await world.keepImagesOf(SEPTEMBER, ['boot', 'recovery']);
    await world.keepPatched(SEPTEMBER);
    const recovery = await lifeboat();
    const round = await begin(world, 'keep a recovery', { lane: 'recovery-through-root' });
    await walk(world, round);
    expect((await see()).state.images['recovery_a']).toMatchObject({
      sha256: recovery,
      recovery: { name: 'Lifeboat 3.8' },
    });
    expect((await evidenceOf(round, 'recovery-inside'))[0]).toContain(recovery);
    expect((await roundView(round)).state).toBe('closed');
  });

  it('the kit installs itself after a start from memory, and what it made is the image that was proved', async () => {
    world = await laneWorld({
      profile: { rootPartition: 'boot', startsOnce: true },
      facts: { startsOnce: 'true' },
    });
    const round = await begin(world, 'first root', { lane: 'start-once-kit-inside' });
    await walk(world, round, { until: 'zip-inside' });
    expect((await see()).state.images['boot_a']!.patchedBy).toBeNull();
    expect((await roundView(round)).interlock?.opens).toContain('lasting');
    await walk(world, round);
    const { state } = await see();
    expect(state.images[onSlot('boot', state.active)]!.patchedBy).not.toBeNull();
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('patched on the handset', () => {
  it('is fetched back and proved here, byte for byte what would have been made here', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root', { limits: { patchThere: true } });
    const walked = await walk(world, round);
    expect(walked).toContain('patch-there');
    expect(walked).not.toContain('patch');
    const told = await evidenceOf(round, 'patch-there');
    expect(told[0]).toContain('/storage/Download/patched-');
    expect(told[1]).toContain('proved here');
    const made = await world.keepPatched(SEPTEMBER);
    expect((await see()).state.images['init_boot_a']!.sha256).toBe(made);
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('erasing', () => {
  it('cures data that nothing opens, the cache first, after a backup and signing out', async () => {
    world = await laneWorld({
      state: {
        mode: 'looping',
        running: null,
        data: { encrypted: true, keyLevel: '2027-01-05', committedBy: null, wipes: 0 },
      },
    });
    await backup(world);
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    const stock = sha256((await world.imagesOf(SEPTEMBER)).get('init_boot')!);
    await reportSlot({
      handsetId: world.handset,
      slot: 'a',
      partition: 'init_boot',
      sha256: stock,
      certainty: 'read',
      reason: 'read back',
    });
    await tellRoot(world.handset, null, 'broken', 'it loops since its data came from another handset');
    const round = await begin(world, 'repair', { lane: 'erase-and-start', wipe: true });
    const { steps } = await roundView(round);
    expect(steps.map((step) => step.key)).toEqual([
      'back-up',
      'guard-off',
      'protect',
      'recovery',
      'erase-cache',
      'check',
      'factory-reset',
      'start',
      'close',
    ]);
    await hold(['power'], 'off');
    await hold(['up', 'power'], 'recovery');
    await walk(world, round);
    await seen('its system', (view) => view.state.mode === 'system');
    expect((await see()).state.data.wipes).toBe(1);
    expect((await roundView(round)).state).toBe('closed');
  });
});

describe('an older bootloader as a step', () => {
  const edges = (own: LaneWorld) =>
    noteEdge(own.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'yes',
      bootloader: 1,
      note: '',
    });
  const level = (build: string) => (build === AUGUST ? 1 : 2);

  it('goes before the sideload where the known way down wants it, above the fuse', async () => {
    world = await laneWorld({
      profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST, bootloader: 1 }] },
      state: { floors: { bootloader: 2, fuse: 1, index: 0 } },
      level,
    });
    await backup(world);
    await edges(world);
    await world.keepImagesOf(SEPTEMBER, ['bootloader']);
    await world.keepImagesOf(AUGUST, ['bootloader']);
    const round = await begin(world, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true });
    const walked = await walk(world, round);
    expect(walked.indexOf('older-bootloader')).toBeGreaterThan(0);
    expect(walked.indexOf('older-bootloader')).toBeLessThan(walked.indexOf('sideload'));
    expect((await see()).state).toMatchObject({
      running: { build: AUGUST },
      floors: { fuse: 1 },
      data: { wipes: 1 },
    });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('is no way below the fuse', async () => {
    world = await laneWorld({
      profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST, bootloader: 1 }] },
      state: { floors: { bootloader: 2, fuse: 2, index: 0 } },
      facts: { antiRollback: '2' },
      level,
    });
    await edges(world);
    await world.keepImagesOf(SEPTEMBER, ['bootloader']);
    await world.keepImagesOf(AUGUST, ['bootloader']);
    const limits = { computer: true, wipeAllowed: true, keepFuse: false };
    const planned = await planFor(world.handset, { goal: 'downgrade', target: AUGUST, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect(planned.plans.plans.map((plan) => plan.lane.id)).not.toContain('sideload');
  });
});

it('what is backed up as an image is a plain archive', async () => {
  world = await laneWorld({ profile: { ...SLATE, startsOnce: true }, facts: { startsOnce: 'true' } });
  const refused = await laneLink()
    .imageOfData()
    .catch((thrown: Error) => thrown.message);
  expect(refused).toContain('not recovery');
  expect((await readTar(memorySource(new Uint8Array(1024)))).members).toEqual([]);
});
