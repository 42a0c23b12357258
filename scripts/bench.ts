import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { countingSource, memorySource } from '@/core/bytes/byte-source';
import { sha256OfSource } from '@/core/bytes/digest';
import { memorySink } from '@/core/bytes/image-sink';
import { blobBytesOf, findPartition, readPayload } from '@/core/formats/payload/reader';
import { readKit } from '@/core/kits/read-kit';
import { openPackage } from '@/core/packages/open-package';
import { payloadEntryOf } from '@/core/packages/update-package';
import { patchImage } from '@/core/patch/patch-image';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { BUILDS } from '@/demo/world';
import { initBootOf } from '@/demo/demo-images';
import { burrowKit } from '@/demo/demo-kit';
import type { Handset } from '../tests/fixtures/bring-back-rivals';
import { halving, inBatches, oneByOne, seededCases } from '../tests/fixtures/bring-back-rivals';
import { measureInBrowser } from './bench-browser';
import { measureLargeImage } from './bench-large-image';
import { measureRescue } from './bench-rescue';
import { measurePlans } from './bench-plans';
import { measureWholeBuild } from './bench-whole-build';
import { measureFullBench } from './bench-full-bench';
import { largeBoot, writeLargePackage, xzRuns } from './bench-world';

/*
 * `npm run bench`: figures as ratios within one run, printed as a table. Needs xz, lz4
 * and sha256sum; `-- --no-browser` leaves the browser out.
 */

interface Row {
  readonly what: string;
  readonly figure: string;
  readonly target: string;
  readonly ok: boolean;
}
const rows: Row[] = [];
const say = (what: string, value: number, most: number, unit = '') =>
  rows.push({
    what,
    figure: `${value.toFixed(value < 10 ? 2 : 0)}${unit}`,
    target: `≤ ${most}${unit}`,
    ok: value <= most,
  });

/**
 * Our work against another program's, turn by turn, so that a machine that slows down slows both; the
 * quickest turn of each counts, in milliseconds. One turn to warm up is left out.
 */
async function paired(
  ours: () => unknown,
  theirs: () => unknown,
): Promise<{ ours: number; theirs: number; ratio: number }> {
  const least = [Infinity, Infinity];
  for (let turn = 0; turn < 6; turn += 1) {
    for (const [i, work] of [ours, theirs].entries()) {
      const began = performance.now();
      await work();
      if (turn > 0) least[i] = Math.min(least[i]!, performance.now() - began);
    }
  }
  return { ours: least[0]!, theirs: least[1]!, ratio: least[0]! / least[1]! };
}
const shell = (command: string) => () =>
  execFileSync('sh', ['-c', command], { stdio: ['ignore', 'ignore', 'ignore'], maxBuffer: 1 << 30 });
for (const tool of ['xz', 'lz4', 'sha256sum'])
  if (spawnSync('sh', ['-c', `command -v ${tool}`]).status !== 0)
    throw new Error(`the bench compares with ${tool}, which is not installed`);

const dir = mkdtempSync(join(tmpdir(), 'eterno-bench-'));
const at = (name: string) => join(dir, name);
try {
  const { image: boot, plain, packed } = await largeBoot();
  const initBoot = await initBootOf(BUILDS.northGate.at(-1)!, 'ondine');
  const blobs = await xzRuns(boot);
  await writeLargePackage(at('update.zip'), boot, blobs, initBoot, 3e9);
  writeFileSync(at('four.img'), Buffer.concat([boot, boot, boot, boot]));
  const file = await openFile(at('update.zip'));

  // bytes read
  for (const partition of ['init_boot', 'boot']) {
    const source = countingSource(file);
    await (await openPackage(source, pooledPorts)).take(partition, memorySink(partition), {});
    const archive = await nodePorts.openZip(file);
    const payload = await readPayload(await archive.openStored(payloadEntryOf(archive)!), nodePorts);
    const bound = Math.floor(
      1.02 * (200 + payload.metadataBytes + blobBytesOf(findPartition(payload, partition))) + 128 * 1024,
    );
    say(`bytes read of a 3 GB package to take ${partition}, of what must be`, source.bytesRead / bound, 1);
    if (partition === 'init_boot')
      say('the same, of the whole file', (100 * source.bytesRead) / file.size, 1, ' %');
  }

  // operations against xz -dc of the same blocks on one core
  blobs.forEach((blob, i) => writeFileSync(at(`blob-${String(i).padStart(3, '0')}.xz`), blob));
  const xz = shell(`for f in ${dir}/blob-*.xz; do xz -dc $f; done > ${dir}/unpacked`);
  const taken = await paired(
    async () => (await openPackage(file, pooledPorts)).take('boot', memorySink('boot')),
    xz,
  );
  say('taking out a 64 MiB boot of xz operations, verified / xz -dc of its blocks', taken.ratio, 1);

  // hashing
  const sha = shell(`sha256sum ${at('four.img')}`);
  const hashed = await paired(async () => {
    for (let i = 0; i < 4; i += 1) await sha256OfSource(nodePorts.digests, memorySource(boot));
  }, sha);
  say('hashing 256 MiB in Node / sha256sum', hashed.ratio, 0.6);

  // patching
  const { kit } = await readKit(memorySource(await burrowKit(), 'kit'), nodePorts);
  const asBoot = { ...kit, steps: kit.steps.filter((step) => step.do !== 'replaceText') };
  writeFileSync(at('ramdisk.lz4'), packed);
  writeFileSync(at('ramdisk.cpio'), plain);
  const lz4 = shell(
    `lz4 -dfq ${at('ramdisk.lz4')} ${at('out')} && lz4 -l -9 -fq ${at('ramdisk.cpio')} ${at('out.lz4')}`,
  );
  const patched = await paired(() => patchImage(memorySource(boot), asBoot, pooledPorts), lz4);
  say('patching and proving a 64 MiB boot with a 30 MiB ramdisk / lz4 -d and lz4 -l -9', patched.ratio, 2);
  const strong = await pooledPorts.codecs.encode('lz4-legacy', plain, true);
  say('size of its ramdisk packed strong / lz4 -l -9', strong.length / statSync(at('out.lz4')).size, 1.02);

  // modules coming back
  const restarts = { ours: 0, one: 0, half: 0, loops: 0, halfLoops: 0 };
  for (const { modules, bad } of seededCases(1000, 20261125)) {
    const starts: Handset = (on) => !bad.some((id) => on.includes(id));
    const [ours, one, half] = [
      inBatches(modules, starts),
      oneByOne(modules, starts),
      halving(modules, starts),
    ];
    restarts.ours += ours.restarts;
    restarts.loops += ours.loops;
    restarts.one += one.restarts;
    restarts.half += half.restarts;
    restarts.halfLoops += half.loops;
  }
  say(
    'restarts to bring modules back on 1,000 seeded cases, in batches / one by one',
    restarts.ours / restarts.one,
    1,
  );
  say('the same / halving', restarts.ours / restarts.half, 1);
  say('loops on the way, in batches / halving', restarts.loops / restarts.halfLoops, 1);

  // peak memory of the command
  await file.close();
  if (existsSync('/usr/bin/time')) {
    const command = [
      '-f',
      '%M',
      process.execPath,
      '--import',
      'tsx',
      'src/cli/eterno.ts',
      'take',
      at('update.zip'),
      '--image',
      'boot',
      '--out',
      at('taken.img'),
    ];
    const timed = spawnSync('/usr/bin/time', command, { encoding: 'utf8' });
    if (timed.status !== 0) throw new Error(timed.stderr);
    say(
      'peak memory of `take boot` on the 3 GB package',
      Number(timed.stderr.trim().split('\n').at(-1)) / 1024,
      350,
      ' MB',
    );
  } else rows.push({ what: 'peak memory of `take`', figure: 'no /usr/bin/time here', target: '', ok: false });

  // the planner
  const plans = await measurePlans();
  say('planning the slowest of the usual situations', plans.slowestMs, 1000, ' ms');
  say('what is left at each of its steps, power lost too, and its slips', plans.comparedMs, 600, ' ms');
  say('planning 1,000 seeded states', plans.thousandSeconds, 15, ' s');

  // rescue
  for (const evenly of [false, true]) {
    const rescue = measureRescue(evenly);
    const how = evenly ? ', every cause as often' : '';
    say(`3,000 broken handsets${how}: not brought back of what could be`, 1 - rescue.back, 0.02);
    say(`erased though something else would have done${how}`, rescue.wipedInVain, 0);
    say(`minutes in relation to a fixed ladder${how}`, rescue.ofLadder, 0.4);
    say(`minutes in relation to asking everything${how}`, rescue.ofAskingAll, 1);
    say(`questions a case${how}`, rescue.checks, 3);
    say(`cases in which something is erased${how}`, rescue.wipes, 0.02);
    say(`restarts in relation to a fixed ladder${how}`, rescue.restartsOfLadder, 0.6);
  }

  // the browser
  if (!process.argv.includes('--no-browser')) {
    const seen = await measureInBrowser(at('update.zip'), at('four.img'));
    say('taking out the same boot in the browser, verified / xz -dc', seen.takeMs / taken.theirs, 1);
    say('SHA-256 of 256 MiB in the browser / sha256sum', seen.hashMsPerMiB / (hashed.theirs / 256), 1.5);
    say('longest main-thread task while it works', seen.longestTaskMs, 50, ' ms');
    say('peak memory of the page while it takes that boot out', seen.peakMb, 512, ' MB');
    const large = await measureLargeImage();
    say('opening an image of 256 MiB with 40,000 entries in its room', large.openMs / 1000, 15, ' s');
    say('longest main-thread task there', large.longestTaskMs, 50, ' ms');
    say('a frame while its entries are scrolled and searched, 95 of 100', large.frameMostMs, 34, ' ms');
    say('peak memory of the page with it', large.peakMb, 1024, ' MB');
    const build = await measureWholeBuild();
    const gigabytes = (build.imagesBytes / 1e9).toFixed(1);
    say(`peak memory of the server while it writes a build of ${gigabytes} GB`, build.peakMb, 350, ' MB');
    say('bytes that it reads for it, of the package and its images together', build.readRatio, 3);
    const full = await measureFullBench();
    say('page of the bench with 40 handsets × 48 months / with one and a month', full.pageRatio, 40);
    say('a frame while it scrolls over four years, median', full.frameMedianMs, 17, ' ms');
    say('the same, 95 of 100', full.frameMostMs, 34, ' ms');
  }
} finally {
  rmSync(dir, { recursive: true, force: true });
}
console.table(
  Object.fromEntries(
    rows.map(({ what, figure, target, ok }) => [what, { figure, target, holds: ok ? 'yes' : 'no' }]),
  ),
);
process.exitCode = rows.every((row) => row.ok) ? 0 : 1;
process.exit();
