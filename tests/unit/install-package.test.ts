import { afterEach, describe, expect, it } from 'vitest';
import { keptInstalls } from '@/core/bench/install-package';
import { listImages, listPackages } from '@/server/repositories/image-repository';
import { confirmChecks } from '@/server/rounds/by-hand';
import { memorySource } from '@/core/bytes/byte-source';
import { findEntry } from '@/core/formats/zip/zip-archive';
import { nodePorts } from '@/platform/node/node-ports';
import { backupResponse } from '@/server/services/backup-service';
import { jobEnded } from '@/server/services/jobs';
import { checkVault, storeView } from '@/server/services/vault-service';
import { roundView } from '@/server/rounds/round-view';
import { planFor } from '@/server/services/plan-service';
import { filesInVault, readProved } from '@/server/vault/vault';
import { codeOf } from '../fixtures/expect-error';
import { installZip, keepInstall, packageOf } from '../fixtures/install-zip';
import { begin, see, version, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { lifeboat, lifeboatImage } from '../fixtures/lifeboat';
import { sha256 } from '../fixtures/server-world';

/* Packages that root installs from the running system: which are kept, and what of them is ever installed. */

const SLATE = {
  profile: {
    slotCount: 1,
    rootPartition: 'boot',
    hasUserspace: false,
    recoveryHome: 'recovery',
    mergesUpdates: false,
  },
  rooted: ['a'],
} as const satisfies LaneOptions;

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const start = async (more: LaneOptions = {}) => {
  world = await laneWorld({ ...SLATE, ...more });
  await world.keepImagesOf(SEPTEMBER, ['boot']);
  await world.keepPatched(SEPTEMBER);
  return world;
};
const recovery = async () => readProved('images', await lifeboat());

describe('an install package', () => {
  it('is kept with each image in it, and kept once', async () => {
    await start();
    const bytes = await packageOf('recovery', await recovery());
    await keepInstall(bytes);
    await keepInstall(bytes);
    const [kept, ...more] = keptInstalls({ packages: await listPackages() });
    expect(more).toEqual([]);
    expect(kept!.report.kept).toMatchObject({
      sha256: sha256(bytes),
      images: [{ partition: 'recovery', sha256: sha256(await recovery()) }],
    });
  });

  it.each([
    ['works its place out', 'dd if=boot.img of=$BLOCK', 'refused'],
    ['names no file', 'dd of=/dev/block/by-name/recovery', 'refused'],
    ['names no place', 'mount /system', 'refused'],
    ['names a file that is not in it', 'dd if=other.img of=/dev/block/by-name/recovery', 'not-found'],
    ['writes what nothing is known of', 'dd if=logo.bin of=/dev/block/by-name/logo', 'bad-magic'],
  ])('whose script %s is not kept', async (_what, script, code) => {
    await start();
    const before = await filesInVault();
    const bytes = await installZip(script, {
      'boot.img': await recovery(),
      'logo.bin': new Uint8Array(900).fill(7),
    });
    expect(await codeOf(() => keepInstall(bytes))).toBe(code);
    expect(keptInstalls({ packages: await listPackages() })).toEqual([]);
    expect((await filesInVault()).filter((one) => !before.includes(one) && one === sha256(bytes))).toEqual(
      [],
    );
  });
});

it('what is kept goes along in a backup, and is found whole', async () => {
  await start();
  const bytes = await packageOf('recovery', await recovery());
  await keepInstall(bytes);
  const backup = new Uint8Array(await (await backupResponse(false)).arrayBuffer());
  const archive = await nodePorts.openZip(memorySource(backup, 'backup.zip'));
  const entry = findEntry(archive, `installs/${sha256(bytes)}`)!;
  const { source } = await archive.openEntry(entry);
  expect(sha256(await source.read(0, source.size))).toBe(sha256(bytes));
  const job = await checkVault();
  await jobEnded(job.id);
  expect((await storeView()).lastCheck).toMatchObject({ damaged: [], missing: [], strays: 0 });
});

describe('in a round', () => {
  /** Its checks are held, whatever reason is given, and nothing is written. */
  const held = async (own: LaneWorld) => {
    const round = await begin(own, 'install a package');
    await walk(own, round, { until: 'check' });
    const { images } = (await see()).state;
    const { checks } = await roundView(round);
    const check = checks.find(({ id }) => id === 'package-images')!;
    expect(check.overridable).toBe(false);
    const reasons = checks.map(({ id }) => ({ checkId: id, reason: 'I know it' }));
    expect(await codeOf(async () => confirmChecks(round, await version(round), reasons))).toBe('refused');
    expect((await see()).state.images).toEqual(images);
    return check.verdict;
  };

  it('an image of another month is held at its checks', async () => {
    const own = await start();
    await keepInstall(await packageOf('recovery', (await own.imagesOf(AUGUST)).get('recovery')!), 'old.zip');
    expect(await held(own)).toBe('fails');
  });

  it('a recovery that nobody said is made for this handset is held at its checks', async () => {
    const own = await start();
    await keepInstall(await packageOf('recovery', await lifeboatImage()));
    expect(await held(own)).not.toBe('holds');
  });

  it('takes root away by no package: there is no way', async () => {
    const own = await start();
    await keepInstall(
      await packageOf('boot', (await own.imagesOf(SEPTEMBER)).get('boot')!),
      'stock-boot.zip',
    );
    const limits = { computer: true, wipeAllowed: false, keepFuse: false };
    const planned = await planFor(own.handset, { goal: 'install a package', target: null, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect(planned.plans.plans).toEqual([]);
  });

  it.each([
    [false, true],
    [true, false],
  ])('where the fuse has to stay whole: %s, a foreign recovery is a way: %s', async (keepFuse, isWay) => {
    const own = await start({ facts: { fuse: 'whole' } });
    await keepInstall(await packageOf('recovery', await recovery()));
    const limits = { computer: true, wipeAllowed: false, keepFuse };
    const planned = await planFor(own.handset, { goal: 'install a package', target: null, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect(planned.plans.plans.length > 0).toBe(isWay);
  });

  it('what the next start takes away again is seen, and the round is not done', async () => {
    const own = await start({ profile: { ...SLATE.profile, restoresRecovery: true } });
    await keepInstall(await packageOf('recovery', await recovery()));
    const round = await begin(own, 'install a package');
    const walked = await walk(own, round);
    expect(walked.at(-1)).toBe('see-again');
    expect((await roundView(round)).state).toBe('open');
    const images = await listImages();
    const { state } = await see();
    expect(images.find(({ sha256: one }) => one === state.images['recovery_a']!.sha256)?.role).not.toBe(
      'recovery',
    );
  });

  it('the one that was planned stays, though another comes', async () => {
    const own = await start();
    const first = await keepInstall(await packageOf('recovery', await recovery()));
    const round = await begin(own, 'install a package');
    await keepInstall(
      await packageOf('recovery', (await own.imagesOf(SEPTEMBER)).get('recovery')!),
      'later.zip',
    );
    const { steps } = await roundView(round);
    expect(steps.find(({ key }) => key === 'package-inside')!.text.title).toContain('lifeboat-installer.zip');
    expect(keptInstalls({ packages: await listPackages() })[0]!.report.kept.sha256).not.toBe(first);
  });
});
