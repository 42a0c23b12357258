import { concatBytes, isZero } from '@/core/bytes/bytes';
import type { PartitionContent, PlannedRun } from '@/core/formats/payload/writer';
import { writePayload } from '@/core/formats/payload/writer';
import { writeZip } from '@/platform/any/write-zip';
import { fileSink } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import { noise, seedOf } from './noise';
import type { DemoBuild } from './world';
import { fingerprintOf } from './world';

const BLOCK_BYTES = 4096;
const RUN_BLOCKS = 512;
/** The tests make a small world with the same code. */
const SYSTEM_BYTES = Number(process.env.ETERNO_DEMO_SYSTEM_MIB ?? 182) * 1024 * 1024;

/** How each stretch of an image is stored: holes as zero or discard, what packs as xz, the rest plain. */
function planRuns(bytes: Uint8Array, packs: (startBlock: number) => boolean): PlannedRun[] {
  const runs: PlannedRun[] = [];
  const blocks = bytes.length / BLOCK_BYTES;
  for (let startBlock = 0; startBlock < blocks; startBlock += RUN_BLOCKS) {
    const blockCount = Math.min(RUN_BLOCKS, blocks - startBlock);
    const hole = isZero(bytes.subarray(startBlock * BLOCK_BYTES, (startBlock + blockCount) * BLOCK_BYTES));
    const type = hole ? (runs.length % 2 === 0 ? 'ZERO' : 'DISCARD') : packs(startBlock) ? 'REPLACE_XZ' : 'REPLACE';
    runs.push({ type, startBlock, blockCount });
  }
  return runs;
}

export interface PackageImages {
  readonly initBoot: Uint8Array;
  readonly boot: Uint8Array;
}

/** Writes a build's full update package to `path`: payload stored, its properties and metadata beside it. */
export async function writeUpdatePackage(path: string, build: DemoBuild, brand: string, images: PackageImages): Promise<void> {
  const system = noise(seedOf(`system ${build.product} ${build.buildId}`), SYSTEM_BYTES);
  const contents: PartitionContent[] = [
    { name: 'init_boot', bytes: images.initBoot, runs: planRuns(images.initBoot, () => true) },
    { name: 'boot', bytes: images.boot, runs: planRuns(images.boot, (start) => start < 2 * RUN_BLOCKS) },
    { name: 'system', bytes: system, runs: planRuns(system, () => false) },
  ];
  const about = { blockSize: BLOCK_BYTES, maxTimestamp: Math.floor(build.publishedAt / 1000), securityPatchLevel: build.patchLevel };
  const payload = await writePayload(contents, about, nodePorts);
  const bytes = concatBytes(payload.parts);
  const digest = await nodePorts.digests.create('sha256');
  digest.update(bytes);
  const base64 = (hash: Uint8Array) => Buffer.from(hash).toString('base64');
  const text = new TextEncoder();
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
    `post-timestamp=${about.maxTimestamp}`,
    `pre-device=${build.device}`,
  ];
  const sink = fileSink(path);
  try {
    let end = 0;
    await sink.begin(0);
    await writeZip(
      [
        { name: 'META-INF/com/android/metadata', bytes: text.encode(`${metadata.join('\n')}\n`), stored: false },
        { name: 'payload.bin', bytes, stored: true },
        { name: 'payload_properties.txt', bytes: text.encode(`${properties.join('\n')}\n`), stored: false },
      ],
      async (part) => {
        await sink.writeAt(end, part);
        end += part.length;
      },
    );
    await sink.commit();
  } finally {
    await sink.discard();
  }
}

export const packageName = (build: DemoBuild) => `${build.product}-${build.buildId}-update.zip`;
