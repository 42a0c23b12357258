import { mkdir, mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { makeOwnWorld } from '@/demo/own-world';
import { nodePorts } from '@/platform/node/node-ports';
import { closeDatabase } from '@/server/db/connection';
import { CABLE, CABLE_FOR, RESCUE_CASE } from '@/server/db/setting-keys';
import {
  findHandset,
  insertHandset,
  listHandsets,
  updateHandset,
} from '@/server/repositories/handset-repository';
import { listRounds } from '@/server/repositories/round-repository';
import { settingsLike } from '@/server/repositories/setting-repository';
import { NEW_CASE } from '@/contracts/rescue-view';
import { agreeToCable, switchCable } from '@/server/services/cable-service';
import { linkOf } from '@/server/services/link-service';
import { needOwnScene } from '@/server/services/own-scene';
import { planFor } from '@/server/services/plan-service';
import { touchScreen } from '@/server/services/stand-in-service';
import { saveCase } from '@/server/services/rescue-cases';
import { tellRoot } from '@/server/services/root-history';
import { sayWayAt } from '@/server/services/say-way';
import { vaultPath } from '@/server/vault/vault';
import type { RunningStandIn } from '@/stand-in/run-stand-in';
import { runStandIn } from '@/stand-in/run-stand-in';
import { StandInStore } from '@/stand-in/stand-in-store';
import { codeOf } from '../fixtures/expect-error';
import { kitZip } from '../fixtures/images';
import { begin, rest } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';

/* A handset of one's own as a world of practice: what is copied, and that the own store keeps its own. */

let world: LaneWorld | null = null;
let standIn: RunningStandIn | null = null;
let copyDir: string | null = null;
afterEach(async () => {
  await standIn?.close();
  await closeDatabase();
  if (copyDir) await rm(copyDir, { recursive: true, force: true });
  if (world) process.env.ETERNO_DATA = world.dir;
  await world?.end();
  [world, standIn, copyDir] = [null, null, null];
});

const PROFILE = 'own';
const rooted: LaneOptions = { rooted: ['a'], builds: { a: SEPTEMBER, b: SEPTEMBER } };

/** Goes over to the copy: from here on the store is the copy's. */
async function copied(own: LaneWorld): Promise<StandInStore> {
  copyDir = await mkdtemp(join(tmpdir(), 'eterno-own-'));
  await closeDatabase();
  process.env.ETERNO_DATA = copyDir;
  const packages = join(copyDir, 'packages');
  await mkdir(packages);
  await makeOwnWorld({ handsetId: own.handset, from: own.dir, dataDir: copyDir, packages });
  return new StandInStore(join(copyDir, 'stand-in', PROFILE));
}
async function back(own: LaneWorld): Promise<void> {
  await closeDatabase();
  process.env.ETERNO_DATA = own.dir;
}

describe('a copy of a handset of one’s own', () => {
  it('has its builds, slots, images and ways, and says them over its link', async () => {
    world = await laneWorld(rooted);
    await world.keepImagesOf(SEPTEMBER);
    const patched = await world.keepPatched(SEPTEMBER);
    const keys = { keys: ['power', 'up'], seconds: 3 };
    const said = { sureness: 'only said', where: '', note: '' } as const;
    await sayWayAt({ handsetId: world.handset, way: 'keys-bootloader', value: keys, ...said });
    const store = await copied(world);
    const [profile, state] = [await store.readProfile(), await store.readState()];
    expect(profile).toMatchObject({
      product: 'hill',
      serial: 'SERIAL42',
      slotCount: 2,
      rootPartition: 'init_boot',
      ownWays: { 'keys-bootloader': { keys: ['power', 'up'], seconds: 3 } },
    });
    expect(state).toMatchObject({
      mode: 'system',
      locked: false,
      active: 'a',
      builds: { a: SEPTEMBER, b: SEPTEMBER },
      running: { slot: 'a', build: SEPTEMBER, rooted: true },
    });
    // the very bytes of the vault, where it has them; what it has not says of which build it is
    expect(sha256(await store.readImage('init_boot_a'))).toBe(patched);
    expect(state.images['init_boot_a']).toMatchObject({ sha256: patched, broken: null });
    const stock = (await world.imagesOf(SEPTEMBER)).get('init_boot')!;
    expect(sha256(await store.readImage('init_boot_b'))).toBe(sha256(stock));
    expect(state.images['radio_a']).toMatchObject({ broken: null, fingerprint: SEPTEMBER });
    standIn = await runStandIn({ dataDir: copyDir!, profile: PROFILE, wirePort: 0, clock: world.clock });
    const link = linkOf((await findHandset(world.handset))!);
    expect(await link.listed()).toMatchObject({ serial: 'SERIAL42', mode: 'system' });
    expect(await link.properties()).toContain(SEPTEMBER);
    expect((await link.status()).rootCommand).toBe(true);
    // files of months ago lie about on it, under names that say too little
    const files = await link.list('/storage');
    expect(files.map(({ path }) => path)).toContain('/storage/Download/init_boot-patched.img');
    expect(files.every(({ at }) => at < Date.now() - 30 * 86_400_000)).toBe(true);
    // the kit's app there takes the newest that was sent, not what lies first
    const newest = (await world.imagesOf(OCTOBER)).get('init_boot')!;
    await link.push('/storage/zz-new.img', newest);
    await link.push('/storage/kit.zip', await kitZip());
    await touchScreen(PROFILE, 'patch file');
    const { kit } = await readKit(memorySource(await kitZip()), nodePorts);
    const made = (await patchImage(memorySource(newest), kit, nodePorts)).sha256.slice(0, 8);
    const there = async () => (await link.list('/storage/Download')).map(({ path }) => path);
    for (let i = 0; i < 500 && !(await there()).some((path) => path.includes('/patched-')); i += 1)
      await rest();
    expect(await there()).toContain(`/storage/Download/patched-${made}.img`);
  });
  it('is planned with as the handset is, by packages that lie there', async () => {
    world = await laneWorld(rooted);
    await copied(world);
    const limits = { computer: true, wipeAllowed: false, keepFuse: false };
    const planned = await planFor(world.handset, { goal: 'monthly update', target: null, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect(planned.context.target).toBe(OCTOBER);
    expect(planned.plans.plans.length).toBeGreaterThan(0);
    const there = await readdir(join(copyDir!, 'packages'));
    expect(there).toHaveLength(2);
    const page = JSON.parse(await readFile(join(copyDir!, 'download-page', 'page.json'), 'utf8')) as {
      builds: { fingerprint: string; file: string; size: number }[];
    };
    expect(page.builds.map(({ fingerprint }) => fingerprint).sort()).toEqual([SEPTEMBER, OCTOBER].sort());
    for (const { file, size } of page.builds)
      expect((await stat(join(copyDir!, 'packages', file))).size).toBe(size);
  });
  it('has a month before it that nobody knows, where no newer build is known', async () => {
    world = await laneWorld({ rooted: ['a'], builds: { a: OCTOBER, b: OCTOBER } });
    const store = await copied(world);
    const offer = (await store.readOffer())!;
    expect(offer.build).toContain('.NEXT/');
    const { builds } = await store.readProfile();
    expect(builds[offer.build]!.patchLevel > builds[OCTOBER]!.patchLevel).toBe(true);
    const limits = { computer: true, wipeAllowed: false, keepFuse: false };
    const planned = await planFor(world.handset, { goal: 'monthly update', target: null, limits });
    expect(typeof planned === 'string' ? planned : planned.context.target).toBe(offer.build);
  });
  it('with one slot, worked by hand, has one, and is linked', async () => {
    world = await laneWorld({
      profile: { slotCount: 1, rootPartition: 'boot', recoveryHome: 'recovery' },
      rooted: ['a'],
      builds: { a: SEPTEMBER, b: SEPTEMBER },
    });
    await updateHandset(world.handset, { link: 'hand', profile: null });
    const store = await copied(world);
    const [profile, state] = [await store.readProfile(), await store.readState()];
    expect(profile).toMatchObject({ slotCount: 1, rootPartition: 'boot', recoveryHome: 'recovery' });
    expect(Object.keys(state.images).filter((name) => name.endsWith('_b'))).toEqual([]);
    expect(state.images['boot_a']!.patchedBy).not.toBeNull();
    standIn = await runStandIn({ dataDir: copyDir!, profile: PROFILE, wirePort: 0, clock: world.clock });
    const link = linkOf((await findHandset(world.handset))!);
    await link.restart('system');
    for (let i = 0; i < 2000 && (await link.listed().catch(() => null)) === null; i += 1) await rest();
    expect((await link.status()).rootCommand).toBe(true);
  });
  it('that does not start loops there too, for what is known of why', async () => {
    world = await laneWorld(rooted);
    await tellRoot(world.handset, null, 'broken', 'it loops since its write');
    const state = await (await copied(world)).readState();
    expect(state).toMatchObject({ mode: 'looping', running: null });
    expect(state.images['init_boot_a']!.broken).not.toBeNull();
    // of the other slot nobody knows, and nothing is promised
    expect(state.images['init_boot_b']!.broken).toContain('nobody knows');
  });
  it('brings nothing of other handsets, no cable, no case and no open round, and takes nothing away', async () => {
    world = await laneWorld(rooted);
    const other = await insertHandset({
      name: 'Other',
      model: 'Other',
      rootPartition: 'boot',
      slotCount: 2,
      link: 'hand',
      profile: null,
      createdAt: 1,
    });
    await switchCable(true);
    await agreeToCable(other.id);
    const state = { ...NEW_CASE, symptoms: ['loops'] } as const;
    await saveCase({ handsetId: world.handset, like: null, state });
    const image = await world.keepPatched(SEPTEMBER);
    const round = await begin(world, 'prove root', {});
    await copied(world);
    expect((await listHandsets()).map(({ id, link, profile }) => [id, link, profile])).toEqual([
      [world.handset, 'stand-in', PROFILE],
    ]);
    for (const prefix of [CABLE, CABLE_FOR, RESCUE_CASE]) expect(await settingsLike(prefix)).toEqual([]);
    expect((await listRounds()).map((one) => [one.id, one.state])).toEqual([[round, 'given-up']]);
    // what is removed here stays there
    await rm(vaultPath('images', image));
    await back(world);
    expect((await listHandsets()).map(({ id }) => id).sort()).toEqual([world.handset, other.id].sort());
    expect((await findHandset(world.handset))!.profile).toBe('lane');
    expect(await settingsLike(CABLE)).toHaveLength(2);
    expect((await listRounds())[0]!.state).toBe('open');
    expect((await stat(vaultPath('images', image))).size).toBeGreaterThan(0);
  });
  it('is made only of one of which enough is known', async () => {
    world = await laneWorld();
    const bare = await insertHandset({
      name: 'Bare',
      model: 'Bare',
      rootPartition: null,
      slotCount: null,
      link: 'hand',
      profile: null,
      createdAt: 1,
    });
    expect(await codeOf(() => needOwnScene(bare.id))).toBe('refused');
    expect(await codeOf(() => needOwnScene(null))).toBe('bad-field');
    expect(await codeOf(() => needOwnScene('0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0999'))).toBe('not-found');
    expect(await needOwnScene(world.handset)).toBe(world.handset);
  });
});
