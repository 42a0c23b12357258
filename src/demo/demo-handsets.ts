import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { memorySource } from '@/core/bytes/byte-source';
import type { Kit } from '@/core/kits/kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { storeImage } from '@/server/services/image-service';
import { bootOf, initBootOf, lifeboatOf, plainOf, ramdiskBootOf } from './demo-images';
import { setName, wholeName, writeSetPackage, writeWholePackage } from './demo-package';
import type { BuildImages } from './demo-stand-in';
import { demoHandset, makeStandIn } from './demo-stand-in';
import type { DemoBuild, DemoHandset } from './world';
import { modulesOn } from './demo-modules';
import { BUILDS, fingerprintOf, levelOf } from './world';

/* The stand-ins of the demo with their whole builds, and what of them the vault holds already. */

export const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
export async function* inOnePiece(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/** Every image of a build of a handset, as its maker has it. */
export async function wholeOf(handset: DemoHandset, build: DemoBuild): Promise<BuildImages> {
  const { brand, rootPartition } = handset;
  const plain = ['system', 'bootloader', 'radio'] as const;
  const images = new Map<string, Uint8Array>();
  if (rootPartition === 'init_boot') {
    images.set('init_boot', await initBootOf(build, brand));
    images.set('boot', await bootOf(build, brand));
  } else {
    images.set('boot', await ramdiskBootOf(build, brand));
    if (handset.slotCount === 1) images.set('recovery', await ramdiskBootOf(build, brand, 'recovery'));
  }
  for (const partition of plain)
    images.set(
      partition,
      await plainOf(partition, build, brand, partition === 'bootloader' ? levelOf(handset, build) : 1),
    );
  return images;
}

interface Keep {
  readonly images: BuildImages;
  readonly partition: string;
  readonly from: string;
  readonly kit: Kit;
  readonly kitSha: string;
}

/** Stock and patched of one partition into the vault. @returns hash and bytes of the patched image */
export async function keepPatched({
  images,
  partition,
  from,
  kit,
  kitSha,
}: Keep): Promise<{ stock: string; patched: string; bytes: Uint8Array }> {
  const bytes = images.get(partition)!;
  const stock = sha256(bytes);
  await storeImage(stock, inOnePiece(bytes), { from: 'package', package: from, partition, verified: 'yes' });
  const patched = await patchImage(memorySource(bytes, partition), kit, nodePorts);
  await storeImage(patched.sha256, inOnePiece(patched.bytes), { from: 'patch', stock, kit: kitSha });
  return { stock, patched: patched.sha256, bytes: patched.bytes };
}

export interface MadeHandsets {
  readonly octoberPatched: string;
  readonly octoberStock: string;
  readonly octoberBoot: string;
  readonly ridgePatched: string;
  readonly barnPatched: string;
  readonly lifeboat: string;
}

/** Makes all that have a stand-in; packages of whole builds go to `packages`. */
export async function makeHandsets(
  dataDir: string,
  packages: string,
  kit: Kit,
  kitSha: string,
): Promise<MadeHandsets> {
  const [north, ridge, barn, spare] = ['north-gate', 'ridge', 'barn', 'spare'].map(demoHandset) as [
    DemoHandset,
    DemoHandset,
    DemoHandset,
    DemoHandset,
  ];
  const cache = new Map<string, Promise<BuildImages>>();
  const imagesOf = (handset: DemoHandset) => (build: DemoBuild) => {
    const key = `${build.product} ${build.buildId}`;
    if (!cache.has(key)) cache.set(key, wholeOf(handset, build));
    return cache.get(key)!;
  };
  const versions = ({ bootloader, baseband }: DemoHandset) => ({ bootloader, baseband });
  const whole = async (handset: DemoHandset, build: DemoBuild) =>
    writeWholePackage(
      join(packages, wholeName(build)),
      build,
      versions(handset),
      await imagesOf(handset)(build),
    );

  const [november, october] = [BUILDS.northGate.at(-1)!, BUILDS.northGate.at(-2)!];
  const octoberImages = await imagesOf(north)(october);
  const own = await keepPatched({
    images: octoberImages,
    partition: 'init_boot',
    from: wholeName(october),
    kit,
    kitSha,
  });
  const octoberBoot = octoberImages.get('boot')!;
  await storeImage(sha256(octoberBoot), inOnePiece(octoberBoot), {
    from: 'package',
    package: wholeName(october),
    partition: 'boot',
    verified: 'yes',
  });
  await makeStandIn(dataDir, {
    handset: north,
    builds: { a: november, b: october },
    active: 'a',
    imagesOf: imagesOf(north),
    instead: new Map([['init_boot_b', own.bytes]]),
    rooted: false,
    offer: null,
    state: { modules: modulesOn('north-gate') },
  });
  await whole(north, november);

  const [ridgeNext, ridgeNow, ridgeOld] = [BUILDS.ridge.at(-1)!, BUILDS.ridge.at(-2)!, BUILDS.ridge.at(-3)!];
  const ridgeKept = await keepPatched({
    images: await imagesOf(ridge)(ridgeNow),
    partition: 'boot',
    from: wholeName(ridgeNow),
    kit,
    kitSha,
  });
  await makeStandIn(dataDir, {
    handset: ridge,
    builds: { a: ridgeOld, b: ridgeNow },
    active: 'b',
    imagesOf: imagesOf(ridge),
    instead: new Map([['boot_b', ridgeKept.bytes]]),
    rooted: true,
    offer: ridgeNext,
    state: { modules: modulesOn('ridge') },
    // what the club does not know yet: it loops on the build that is out
    badModules: [{ id: 'long-exposure', build: fingerprintOf(ridgeNext, ridge.brand) }],
  });
  await whole(ridge, ridgeNext);

  const [barnNow, barnNext] = [BUILDS.barn[0]!, BUILDS.barn[1]!];
  const barnKept = await keepPatched({
    images: await imagesOf(barn)(barnNow),
    partition: 'boot',
    from: setName(barnNow),
    kit,
    kitSha,
  });
  await makeStandIn(dataDir, {
    handset: barn,
    builds: { a: barnNow, b: barnNow },
    active: 'a',
    imagesOf: imagesOf(barn),
    instead: new Map([['boot_a', barnKept.bytes]]),
    rooted: true,
    offer: null,
    state: { modules: modulesOn('barn') },
  });
  await writeSetPackage(join(packages, setName(barnNext)), setName(barnNext), await imagesOf(barn)(barnNext));
  const lifeboat = await lifeboatOf(barnNow, '3.8', 34);
  await storeImage(sha256(lifeboat), inOnePiece(lifeboat), { from: 'file', name: 'lifeboat-3.8-slate8.img' });

  const [spareNext, spareNow] = [BUILDS.spare.at(-1)!, BUILDS.spare.at(-2)!];
  await makeStandIn(dataDir, {
    handset: spare,
    builds: { a: spareNow, b: spareNow },
    active: 'a',
    imagesOf: imagesOf(spare),
    instead: new Map(),
    rooted: false,
    offer: spareNext,
  });
  await whole(spare, spareNow);
  return {
    octoberPatched: own.patched,
    octoberStock: own.stock,
    octoberBoot: sha256(octoberBoot),
    ridgePatched: ridgeKept.patched,
    barnPatched: barnKept.patched,
    lifeboat: sha256(lifeboat),
  };
}
