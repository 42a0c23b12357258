import { createHash } from 'node:crypto';
import { brotliCompressSync, constants } from 'node:zlib';
import { concatBytes, isZero } from '@/core/bytes/bytes';
import { writeBinaryPatch } from '@/core/formats/binary-patch/write-patch';
import { writeIncrementalPayload } from '@/core/formats/payload/write-incremental';
import { writeTar } from '@/core/formats/tar/writer';
import type { PartitionContent, PlannedRun, WrittenPayload } from '@/core/formats/payload/writer';
import { writePayload } from '@/core/formats/payload/writer';
import type { ZipMember } from '@/platform/any/write-zip';
import { writeZip } from '@/platform/any/write-zip';
import { fileSink, writeFileWhole } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import { noise, seedOf } from './noise';
import type { DemoBuild } from './world';
import { fingerprintOf } from './world';

const BLOCK_BYTES = 4096;
const RUN_BLOCKS = 512;
/** The tests make a small world with the same code. */
const PRODUCT_BYTES = Number(process.env.ETERNO_DEMO_SYSTEM_MIB ?? 182) * 1024 * 1024;

/** How each stretch of an image is stored: holes as zero or discard, what packs as xz, the rest plain. */
function planRuns(bytes: Uint8Array, packs: (startBlock: number) => boolean): PlannedRun[] {
  const runs: PlannedRun[] = [];
  const blocks = bytes.length / BLOCK_BYTES;
  for (let startBlock = 0; startBlock < blocks; startBlock += RUN_BLOCKS) {
    const blockCount = Math.min(RUN_BLOCKS, blocks - startBlock);
    const hole = isZero(bytes.subarray(startBlock * BLOCK_BYTES, (startBlock + blockCount) * BLOCK_BYTES));
    const type = hole
      ? runs.length % 2 === 0
        ? 'ZERO'
        : 'DISCARD'
      : packs(startBlock)
        ? 'REPLACE_XZ'
        : 'REPLACE';
    runs.push({ type, startBlock, blockCount });
  }
  return runs;
}

export interface PackageImages {
  readonly system?: Uint8Array;
  readonly initBoot: Uint8Array;
  readonly boot: Uint8Array;
}

/** The months before and after, of every partition that changes. */
export interface PackageChange {
  readonly from: DemoBuild;
  readonly before: PackageImages;
  readonly after: PackageImages;
}

/** Writes a build's full update package to `path`. */
export async function writeUpdatePackage(
  path: string,
  build: DemoBuild,
  brand: string,
  images: PackageImages,
): Promise<void> {
  const product = noise(seedOf(`product ${build.product} ${build.buildId}`), PRODUCT_BYTES);
  const { system } = images;
  const contents: PartitionContent[] = [
    { name: 'init_boot', bytes: images.initBoot, runs: planRuns(images.initBoot, () => true) },
    { name: 'boot', bytes: images.boot, runs: planRuns(images.boot, (start) => start < 2 * RUN_BLOCKS) },
    ...(system ? [{ name: 'system', bytes: system, runs: planRuns(system, () => false) }] : []),
    { name: 'product', bytes: product, runs: planRuns(product, () => false) },
  ];
  await writePackage(path, await writePayload(contents, aboutOf(build), nodePorts), build, brand, []);
}

/** Writes the update from one build to the next, as differences, to `path`. */
export async function writeIncrementalPackage(
  path: string,
  build: DemoBuild,
  brand: string,
  { from, before, after }: PackageChange,
): Promise<void> {
  const pack = (bytes: Uint8Array) =>
    new Uint8Array(brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 6 } }));
  const changed = [
    { name: 'init_boot', old: before.initBoot, fresh: after.initBoot, runBlocks: RUN_BLOCKS },
    { name: 'boot', old: before.boot, fresh: after.boot, runBlocks: RUN_BLOCKS },
  ];
  const makePatch = (old: Uint8Array, fresh: Uint8Array) =>
    writeBinaryPatch(old, fresh, { packing: 'brotli', pack });
  const payload = await writeIncrementalPayload(changed, aboutOf(build), makePatch, nodePorts);
  await writePackage(path, payload, build, brand, [
    `pre-build=${fingerprintOf(from, brand)}`,
    `pre-build-incremental=${from.incremental}`,
  ]);
}

const aboutOf = (build: DemoBuild) => ({
  blockSize: BLOCK_BYTES,
  maxTimestamp: Math.floor(build.publishedAt / 1000),
  securityPatchLevel: build.patchLevel,
});

/** A payload stored in its ZIP, with its properties and metadata beside it. */
async function writePackage(
  path: string,
  payload: WrittenPayload,
  build: DemoBuild,
  brand: string,
  more: readonly string[],
): Promise<void> {
  const bytes = concatBytes(payload.parts);
  const digest = await nodePorts.digests.create('sha256');
  digest.update(bytes);
  const base64 = (hash: Uint8Array) => Buffer.from(hash).toString('base64');
  const properties = [
    `FILE_HASH=${base64(digest.finish())}`,
    `FILE_SIZE=${bytes.length}`,
    `METADATA_HASH=${base64(payload.metadataSha256)}`,
    `METADATA_SIZE=${payload.metadataBytes}`,
  ];
  const metadata = [
    'ota-type=AB',
    `post-build=${fingerprintOf(build, brand)}`,
    `post-build-incremental=${build.incremental}`,
    `post-sdk-level=${Number(build.release) + 20}`,
    `post-security-patch-level=${build.patchLevel}`,
    `post-timestamp=${aboutOf(build).maxTimestamp}`,
    ...more,
    `pre-device=${build.device}`,
  ];
  const text = (lines: readonly string[]) => new TextEncoder().encode(`${lines.join('\n')}\n`);
  await writeArchive(path, [
    { name: 'META-INF/com/android/metadata', bytes: text(metadata), stored: false },
    { name: 'payload.bin', bytes, stored: true },
    { name: 'payload_properties.txt', bytes: text(properties), stored: false },
  ]);
}

/** Writes an archive so that it is there whole or not at all. */
export async function writeArchive(path: string, members: readonly ZipMember[]): Promise<void> {
  const sink = fileSink(path);
  try {
    let end = 0;
    await sink.begin(0);
    await writeZip(members, async (part) => {
      await sink.writeAt(end, part);
      end += part.length;
    });
    await sink.commit();
  } finally {
    await sink.discard();
  }
}

/** A small archive in memory. */
export async function archiveBytes(members: readonly ZipMember[]): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  await writeZip(members, async (part) => void parts.push(part.slice()));
  return Buffer.concat(parts);
}

export const packageName = (build: DemoBuild) => `${build.product}-${build.buildId}-update.zip`;
export const incrementalName = (build: DemoBuild, from: DemoBuild) =>
  `${build.product}-${build.buildId}-from-${from.buildId.split('.').slice(1).join('.')}.zip`;

/** Writes a whole build from the computer: bootloader and radio beside an inner archive of images. */
export async function writeWholePackage(
  path: string,
  build: DemoBuild,
  versions: { bootloader: string; baseband: string },
  images: ReadonlyMap<string, Uint8Array>,
): Promise<void> {
  const text = (lines: readonly string[]) => new TextEncoder().encode(`${lines.join('\n')}\n`);
  const parts: Uint8Array[] = [];
  const inner = [...images].filter(([name]) => name !== 'bootloader' && name !== 'radio');
  await writeZip(
    [
      {
        name: 'android-info.txt',
        bytes: text([
          `require board=${build.device}`,
          `require version-bootloader=${versions.bootloader}`,
          `require version-baseband=${versions.baseband}`,
        ]),
        stored: false,
      },
      ...inner.map(([name, bytes]) => ({ name: `${name}.img`, bytes, stored: false })),
    ],
    async (part) => void parts.push(part.slice()),
  );
  const folder = `${build.product}-${build.buildId.toLowerCase()}`;
  const beside = (name: string, version: string) => {
    const bytes = images.get(name);
    return bytes ? [{ name: `${folder}/${name}-${build.device}-${version}.img`, bytes, stored: true }] : [];
  };
  await writeArchive(path, [
    { name: `${folder}/image-${folder}.zip`, bytes: concatBytes(parts), stored: true },
    ...beside('bootloader', versions.bootloader),
    ...beside('radio', versions.baseband),
  ]);
}

/** Writes a firmware set: one archive of images with the line of its MD5 behind it. */
export async function writeSetPackage(
  path: string,
  name: string,
  images: ReadonlyMap<string, Uint8Array>,
): Promise<void> {
  const tar = writeTar([...images].map(([partition, bytes]) => ({ name: `${partition}.img`, bytes })));
  const line = `${createHash('md5').update(tar).digest('hex')}  ${name.replace(/\.md5$/, '')}\n`;
  await writeFileWhole(path, concatBytes([tar, new TextEncoder().encode(line)]));
}

export const wholeName = (build: DemoBuild) => `${build.product}-${build.buildId}-whole.zip`;
export const setName = (build: DemoBuild) => `${build.product}-${build.buildId}.tar.md5`;
