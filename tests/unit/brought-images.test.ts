import { afterEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { openPackage } from '@/core/packages/open-package';
import { nodePorts } from '@/platform/node/node-ports';
import { findImage, listImages } from '@/server/repositories/image-repository';
import { patchedOf, roundContext } from '@/server/rounds/round-context';
import { roundView } from '@/server/rounds/round-view';
import { keepPackage } from '@/server/services/firmware-service';
import { trustImage } from '@/server/services/image-judgement';
import { storeImage } from '@/server/services/image-service';
import { codeOf } from '../fixtures/expect-error';
import { entry, seeded, stockEntries, stockImage, zipBytes } from '../fixtures/images';
import { begin, see, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { pieces, sha256 } from '../fixtures/server-world';

/* Images that were patched elsewhere, and images that only their package knows, in a real vault. */

let world: LaneWorld;
afterEach(() => world.end());

const bring = async (bytes: Uint8Array, name = 'brought.img') => {
  await storeImage(sha256(bytes), pieces(bytes), { from: 'file', name });
  return (await findImage(sha256(bytes)))!;
};
const open = async (bytes: Uint8Array, readBy: 'server' | 'page' = 'server') => {
  const { report } = await openPackage(memorySource(bytes, 'whole.zip'), nodePorts);
  await keepPackage({ fileName: 'whole.zip', sizeBytes: bytes.length, report, readBy });
};

describe('an image patched elsewhere', () => {
  it('carries a first root without any kit to its signed-off end', async () => {
    world = await laneWorld({ kit: false });
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    const walked = await walk(world, round, { reasons: ['battery', 'tool'] });
    expect(walked).toContain('bring-patched');
    expect(walked).not.toContain('patch');
    const view = await roundView(round);
    expect(view.state).toBe('closed');
    const handset = (await see()).state;
    expect(handset.running?.rooted).toBe(true);
    const written = (await listImages()).find(({ role }) => role === 'patched');
    expect(written).toMatchObject({
      role: 'patched',
      kit: 'Oxbow 3.1',
      proof: null,
      fingerprint: SEPTEMBER,
      judged: { belongs: 'yes', times: 1, unexpected: [] },
    });
  }, 120_000);

  it('is judged when its stock image comes, and not by another month’s', async () => {
    world = await laneWorld();
    await world.keepImagesOf(OCTOBER, ['init_boot']);
    const sha = await world.keepBrought(SEPTEMBER);
    expect(await findImage(sha)).toMatchObject({ role: 'patched', judged: { belongs: 'no' } });
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    expect(await findImage(sha)).toMatchObject({
      fingerprint: SEPTEMBER,
      judged: { belongs: 'yes', stockSha256: sha256((await world.imagesOf(SEPTEMBER)).get('init_boot')!) },
    });
  });

  it('is none where nothing was patched, though it belongs to a stock image', async () => {
    world = await laneWorld();
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    const bare = await bring(await stockImage({ footer: false }));
    expect(bare).toMatchObject({ role: 'unknown', judged: { belongs: 'yes', times: 0 } });
    expect(patchedOf(await roundContext(await begin(world, 'first root')), SEPTEMBER)).toBeNull();
  });

  it('with something unexpected is root’s image only once its maker is trusted', async () => {
    world = await laneWorld();
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    const sha = await world.keepBrought(SEPTEMBER, [
      entry('first_stage_ramdisk/fstab.demo', 'system /system ext4 rw wait\n'),
    ]);
    await walk(world, round, { until: 'patch' });
    const chosen = async () => patchedOf(await roundContext(round), SEPTEMBER)?.sha256 ?? null;
    expect(await findImage(sha)).toMatchObject({
      judged: { belongs: 'yes', unexpected: [{ code: 'entry' }] },
    });
    expect(await chosen()).toBeNull();
    await trustImage(sha, 'our club’s own tool');
    expect(await chosen()).toBe(sha);
    const { steps } = await roundView(round);
    expect(steps.find(({ key }) => key === 'patch')?.state).toBe('done');
  });

  it('of another build is trusted by no word', async () => {
    world = await laneWorld();
    await world.keepImagesOf(OCTOBER, ['init_boot']);
    const sha = await world.keepBrought(SEPTEMBER);
    expect(await codeOf(() => trustImage(sha, 'I know him'))).toBe('does-not-fit');
    expect(await codeOf(() => trustImage('0'.repeat(64), 'I know him'))).toBe('not-found');
    expect((await findImage(sha))!.trust).toBeNull();
  });
});

describe('images that their own bytes do not tell', () => {
  const loader = seeded(5, 5000);
  const factory = async () =>
    zipBytes({
      'hill/bootloader-hill-tb-1.img': loader,
      'hill/image-hill.zip': await zipBytes({
        'init_boot.img': (await world.imagesOf(SEPTEMBER)).get('init_boot')!,
        'android-info.txt': 'require board=hill\n',
      }),
    });

  it('a bootloader of no known format is kept whole, as the package’s that the server opened', async () => {
    world = await laneWorld();
    const bytes = await factory();
    expect(await codeOf(() => bring(loader, 'bootloader.img'))).toBe('bad-magic');
    await open(bytes, 'page');
    expect(await codeOf(() => bring(loader, 'bootloader.img'))).toBe('bad-magic');
    await open(bytes);
    expect(await bring(loader, 'bootloader.img')).toMatchObject({
      partition: 'bootloader',
      role: 'stock',
      fingerprint: SEPTEMBER,
      report: { kind: 'other', avb: null },
    });
    // one byte more, or another: it is not the package's
    expect(await codeOf(() => bring(seeded(6, 5000)))).toBe('bad-magic');
    expect((await listImages()).filter(({ partition }) => partition === 'bootloader')).toHaveLength(1);
  });

  it('an image that names no build is of the build whose package holds it', async () => {
    world = await laneWorld();
    const bare = await stockImage({ footer: false, entries: [...stockEntries(), entry('bare', 'x')] });
    expect(await bring(bare)).toMatchObject({ role: 'unknown', fingerprint: null });
    await open(
      await zipBytes({
        'init_boot.img': bare,
        'vbmeta.img': await stockImage({ partition: 'vbmeta_system' }),
        'android-info.txt': 'require board=hill\n',
      }),
    );
    expect(await findImage(sha256(bare))).toMatchObject({ role: 'stock', fingerprint: SEPTEMBER });
  });
});
