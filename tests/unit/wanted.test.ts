import { afterEach, describe, expect, it } from 'vitest';
import type { WantedImages } from '@/contracts/firmware-view';
import type { PackageImage } from '@/core/packages/package-report';
import { imagesWords, leftToTake, notToTake, takesWords } from '@/features/firmware/wanted-words';
import { wantedImages } from '@/server/rounds/wanted';
import { begin, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';

/* What open rounds take out of packages. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const idOf = (fingerprint: string) => fingerprint.split('/')[3];

describe('the images that a round takes', () => {
  it('are the one that carries root, until the vault holds it', async () => {
    world = await laneWorld({});
    await begin(world, 'first root');
    expect(await wantedImages(SEPTEMBER)).toMatchObject({
      handset: 'North',
      partitions: ['init_boot'],
      file: null,
    });
    expect(await wantedImages(null)).toMatchObject({ build: idOf(SEPTEMBER), partitions: ['init_boot'] });
    expect(await wantedImages(OCTOBER)).toBeNull();
    await world.keepPackageOf(SEPTEMBER);
    expect((await wantedImages(SEPTEMBER))!.file!.name).toBe(`${idOf(SEPTEMBER)}.zip`);
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    expect(await wantedImages(null)).toBeNull();
  });

  it('are all of a whole build that are not there yet', async () => {
    world = await laneWorld({ rooted: ['a'], offer: OCTOBER });
    await world.keepPatched(SEPTEMBER);
    const round = await begin(world, 'monthly update', { lane: 'whole-build-patched' });
    expect((await wantedImages(OCTOBER))!.partitions).toBeNull();
    await world.keepPackageOf(OCTOBER);
    const all = [...(await world.imagesOf(OCTOBER)).keys()];
    expect([...(await wantedImages(OCTOBER))!.partitions!].sort()).toEqual([...all].sort());
    await world.keepImagesOf(OCTOBER, ['boot', 'radio']);
    expect([...(await wantedImages(OCTOBER))!.partitions!].sort()).toEqual(
      all.filter((name) => name !== 'boot' && name !== 'radio').sort(),
    );
    await world.keepImagesOf(OCTOBER);
    expect(await wantedImages(OCTOBER)).toBeNull();
    await walk(world, round);
    expect(await wantedImages(null)).toBeNull();
  });
});

describe('the button that takes them', () => {
  const image = (partition: string, change: Partial<PackageImage> = {}) =>
    ({ partition, size: 10, unsupported: [], needsSource: false, ...change }) as unknown as PackageImage;
  const wanted = (partitions: readonly string[] | null): WantedImages => ({
    roundId: 'r',
    handset: 'North',
    build: 'b',
    partitions,
    file: null,
  });
  const names = (images: readonly PackageImage[]) => images.map(({ partition }) => partition);

  it('takes what is wanted, can be taken here, and was not taken yet', () => {
    const images = [
      image('boot'),
      image('init_boot'),
      image('super', { size: 1e10 }),
      image('x', { needsSource: true }),
    ];
    expect(names(leftToTake(wanted(['init_boot']), images, []))).toEqual(['init_boot']);
    expect(names(leftToTake(wanted(null), images, []))).toEqual(['boot', 'init_boot']);
    expect(names(leftToTake(wanted(null), images, [{ partition: 'boot' }]))).toEqual(['init_boot']);
    expect(leftToTake(wanted(['vendor_boot']), images, [])).toEqual([]);
  });
  it('says what can’t be taken here, and why', () => {
    const images = [image('boot'), image('super', { size: 1e10 })];
    expect(notToTake(wanted(null), images)).toMatchObject([{ partition: 'super' }]);
    expect(notToTake(wanted(['boot']), images)).toEqual([]);
    expect(takesWords(wanted(null), images)).toMatch(/takes boot from it\. Not here: super \(too large/);
    expect(takesWords(wanted(['super']), images)).toMatch(/none of them can be taken out here/);
    expect(takesWords(wanted(['boot']), images)).not.toContain('Not here');
  });
  it('names few, and counts many', () => {
    expect(imagesWords(['boot', 'init_boot'])).toBe('boot, init_boot');
    expect(imagesWords(['a', 'b', 'c', 'd'])).toBe('4 images');
  });
});
