import { memorySink } from '@/core/bytes/image-sink';
import { passesThrough } from '@/core/bench/whole-build';
import { openPackage } from '@/core/packages/open-package';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { closeDatabase } from '@/server/db/connection';
import { insertFacts, listHandsets, updateHandset } from '@/server/repositories/handset-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { roundView } from '@/server/rounds/round-view';
import { addHandset } from '@/server/services/bench-service';
import { keepPackage } from '@/server/services/firmware-service';
import { storeImage, storeKit } from '@/server/services/image-service';
import { slotCells } from '@/server/services/slot-service';
import { begin, version, walk } from '../tests/fixtures/lane-walk';
import type { LaneWorld } from '../tests/fixtures/lane-world';
import { LANE_PROFILE, OCTOBER, SEPTEMBER } from '../tests/fixtures/lane-world';
import { kitZip, stockImage } from '../tests/fixtures/images';
import { readKit } from '@/core/kits/read-kit';
import { memorySource } from '@/core/bytes/byte-source';
import { patchImage } from '@/core/patch/patch-image';
import { DUMP, pieces, sha256 } from '../tests/fixtures/server-world';
import { PACKAGE } from './whole-build-world';

/*
 * `whole-build-round.ts begin PACKAGE`: a round in the store of $ETERNO_DATA that stands before the step that
 * writes all of October. `whole-build-round.ts ended ROUND`: what became of it. Each prints JSON.
 */

const keep = (bytes: Uint8Array, partition: string) =>
  storeImage(sha256(bytes), pieces(bytes, 1 << 20), {
    from: 'package',
    package: PACKAGE,
    partition,
    verified: 'yes',
  });

async function beginRound(path: string): Promise<void> {
  const kit = await kitZip();
  await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
  const handset = await addHandset('North', DUMP);
  await updateHandset(handset, { link: 'stand-in', profile: LANE_PROFILE });
  await insertFacts(
    handset,
    Object.entries({ slotCount: '2', antiRollback: '1', snapshot: 'none' }).map(([key, value]) => ({
      key,
      value,
    })),
    { source: 'link', witness: 'bootloader', at: Date.now() - 1000 },
  );
  for (const [i, fingerprint] of [SEPTEMBER, OCTOBER].entries())
    await recordBuild({
      fingerprint,
      product: 'hill_eu',
      device: 'hill',
      buildId: fingerprint.split('/')[3]!,
      patchLevel: i === 0 ? '2026-09-05' : '2026-10-05',
      publishedAt: 1_000_000 + i,
    });
  const source = await openFile(path);
  const opened = await openPackage({ ...source, name: PACKAGE }, nodePorts);
  const keepPackageOf = async () =>
    void (await keepPackage({
      fileName: PACKAGE,
      sizeBytes: source.size,
      report: opened.report,
      readBy: 'server',
    }));
  await keepPackageOf();
  // of what is installed only the way back is needed
  await keep(await stockImage({ partition: 'init_boot', fingerprint: SEPTEMBER }), 'init_boot');
  const world = {
    handset,
    profile: { rootPartition: 'init_boot' },
    keepPackageOf,
    async keepImagesOf(fingerprint: string) {
      if (fingerprint === SEPTEMBER) return;
      for (const image of opened.report.images) {
        if (passesThrough(image)) continue;
        const sink = memorySink(image.partition);
        await opened.take(image.partition, sink);
        await keep(sink.bytes, image.partition);
      }
    },
    async keepPatched(fingerprint: string) {
      const stock = await stockImage({ partition: 'init_boot', fingerprint });
      const made = await patchImage(
        memorySource(stock, 'init_boot'),
        (await readKit(memorySource(kit), nodePorts)).kit,
        nodePorts,
      );
      await keep(stock, 'init_boot');
      await storeImage(made.sha256, pieces(made.bytes), {
        from: 'patch',
        stock: sha256(stock),
        kit: sha256(kit),
      });
    },
  } as unknown as LaneWorld;
  const round = await begin(world, 'monthly update', { lane: 'whole-build-then-root' });
  await walk(world, round, { until: 'write-build' });
  console.log(JSON.stringify({ round, version: await version(round) }));
}

async function tellEnd(round: string): Promise<void> {
  const step = (await roundView(round)).steps.find(({ key }) => key === 'write-build')!;
  const [handset] = await listHandsets();
  const cells = (await slotCells(handset!.id)).filter(
    ({ slot, reason }) => slot === 'a' && reason === 'written over the link',
  );
  console.log(JSON.stringify({ state: step.state, written: cells.length }));
}

const [what, about] = process.argv.slice(2);
await (what === 'begin' ? beginRound(about!) : tellEnd(about!));
await closeDatabase();
process.exit();
