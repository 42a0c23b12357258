import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { countingSource, memorySource } from '@/core/bytes/byte-source';
import { memorySink } from '@/core/bytes/image-sink';
import { archiveBytes } from '@/core/formats/cpio/cpio-archive';
import { readBootImage, sectionBytes } from '@/core/formats/boot-image/reader';
import { archivesOf, readRamdisk } from '@/core/formats/cpio/ramdisk';
import { blobBytesOf, findPartition, readPayload } from '@/core/formats/payload/reader';
import { readKit } from '@/core/kits/read-kit';
import { openPackage } from '@/core/packages/open-package';
import { payloadEntryOf } from '@/core/packages/update-package';
import { patchImage } from '@/core/patch/patch-image';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { BUILDS } from '@/demo/world';
import { bootOf, initBootOf } from '@/demo/demo-images';
import { burrowKit } from '@/demo/demo-kit';
import { writeUpdatePackage } from '@/demo/demo-package';

/* `npm run bench`: figures as ratios within one run, printed as a table. Times are medians of five. Needs xz, lz4 and sha256sum. */

interface Row {
  readonly what: string;
  readonly figure: string;
  readonly target: string;
  readonly ok: boolean;
}
const rows: Row[] = [];
const say = (what: string, figure: string, target: string, ok: boolean) => rows.push({ what, figure, target, ok });

async function median(work: () => unknown): Promise<number> {
  await work();
  const times: number[] = [];
  for (let i = 0; i < 5; i += 1) {
    const began = performance.now();
    await work();
    times.push(performance.now() - began);
  }
  return times.sort((a, b) => a - b)[2]!;
}
const shell = (command: string) => () => execFileSync('sh', ['-c', command], { stdio: ['ignore', 'ignore', 'ignore'], maxBuffer: 1 << 30 });
for (const tool of ['xz', 'lz4', 'sha256sum'])
  if (spawnSync('sh', ['-c', `command -v ${tool}`]).status !== 0) throw new Error(`the bench compares with ${tool}, which is not installed`);

const dir = mkdtempSync(join(tmpdir(), 'eterno-bench-'));
try {
  const build = BUILDS.northGate.at(-1)!;
  const images = { initBoot: await initBootOf(build, 'ondine'), boot: await bootOf(build, 'ondine') };
  const path = join(dir, 'update.zip');
  await writeUpdatePackage(path, build, 'ondine', images);
  const file = await openFile(path);

  // bytes read
  for (const partition of ['init_boot', 'boot']) {
    const source = countingSource(file);
    await (await openPackage(source, nodePorts)).take(partition, memorySink(partition), {});
    const archive = await nodePorts.openZip(file);
    const payload = await readPayload(await archive.openStored(payloadEntryOf(archive)!), nodePorts);
    const directory = archive.entries.reduce((sum, entry) => sum + 46 + entry.name.length, 22);
    const bound = Math.floor(1.02 * (directory + payload.metadataBytes + blobBytesOf(findPartition(payload, partition))) + 128 * 1024);
    say(`bytes read to take ${partition}, of ${bound} allowed`, (source.bytesRead / bound).toFixed(3), '≤ 1', source.bytesRead <= bound);
  }

  // extraction against xz -dc and sha256sum on the same bytes
  const archive = await nodePorts.openZip(file);
  const payload = await readPayload(await archive.openStored(payloadEntryOf(archive)!), nodePorts);
  const operations = findPartition(payload, 'boot').operations;
  const blobs = await Promise.all(
    operations
      .filter((operation) => operation.type === 'REPLACE_XZ')
      .map((operation) =>
        payload.source.read(payload.blobStart + operation.dataOffset!, payload.blobStart + operation.dataOffset! + operation.dataLength),
      ),
  );
  blobs.forEach((blob, i) => writeFileSync(join(dir, `blob-${i}.xz`), blob));
  writeFileSync(join(dir, 'boot.img'), images.boot);
  const take = await median(async () => (await openPackage(file, nodePorts)).take('boot', memorySink('boot')));
  const xz = await median(shell(`for f in ${dir}/blob-*.xz; do xz -dc $f; done > ${dir}/unpacked`));
  const sha = await median(shell(`sha256sum ${dir}/boot.img`));
  say('time to take boot (32 MiB, verified) / xz -dc of its blocks and sha256sum of the image', (take / (xz + sha)).toFixed(2), 'told', true);

  // patch against lz4
  const { kit } = await readKit(memorySource(await burrowKit(), 'kit'), nodePorts);
  const packed = await sectionBytes(await readBootImage(memorySource(images.initBoot)), 'ramdisk');
  const plain = archivesOf(await readRamdisk(packed, nodePorts.codecs)).map(archiveBytes)[0]!;
  writeFileSync(join(dir, 'ramdisk.lz4'), packed);
  writeFileSync(join(dir, 'ramdisk.cpio'), plain);
  const patch = await median(() => patchImage(memorySource(images.initBoot), kit, nodePorts));
  const lz4 = await median(shell(`lz4 -dfq ${dir}/ramdisk.lz4 ${dir}/out && lz4 -l -9 -fq ${dir}/ramdisk.cpio ${dir}/out.lz4`));
  say('time to patch and prove init_boot / lz4 -d and lz4 -l -9 of its ramdisk', (patch / lz4).toFixed(2), 'told', true);
  const ours = await nodePorts.codecs.encode('lz4-legacy', plain, true);
  say('size of the packed ramdisk, strong / lz4 -l -9', (ours.length / statSync(join(dir, 'out.lz4')).size).toFixed(3), 'told', true);

  // peak memory of the command
  await file.close();
  if (existsSync('/usr/bin/time')) {
    const timed = spawnSync(
      '/usr/bin/time',
      ['-f', '%M', process.execPath, '--import', 'tsx', 'src/cli/eterno.ts', 'take', path, '--image', 'boot', '--out', join(dir, 'taken.img')],
      { encoding: 'utf8' },
    );
    const megabytes = Number(timed.stderr.trim().split('\n').at(-1)) / 1024;
    say('peak memory of `take` on a 200 MB package', `${megabytes.toFixed(0)} MB`, '< 250 MB', timed.status === 0 && megabytes < 250);
  } else say('peak memory of `take`', 'no /usr/bin/time here', '< 250 MB', false);
} finally {
  rmSync(dir, { recursive: true, force: true });
}
console.table(Object.fromEntries(rows.map(({ what, figure, target, ok }) => [what, { figure, target, holds: ok ? 'yes' : 'no' }])));
process.exitCode = rows.every((row) => row.ok) ? 0 : 1;
