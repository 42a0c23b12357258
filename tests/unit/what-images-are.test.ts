import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { appendAvbFooter } from '@/core/formats/avb/writer';
import type { PackageReport } from '@/core/packages/package-report';
import { plainImage, UNKNOWN_BUILD } from '@/core/packages/package-report';
import { nodePorts } from '@/platform/node/node-ports';
import { countingSource, memorySource } from '@/core/bytes/byte-source';
import { openPackage } from '@/core/packages/open-package';
import type { ByteRange, OpenedFile } from '@/core/packages/partial-source';
import { rangesToSend } from '@/core/packages/partial-source';
import { findImage, listPackages } from '@/server/repositories/image-repository';
import { keepOpening, keepPackage } from '@/server/services/firmware-service';
import { storeImage } from '@/server/services/image-service';
import { putStockBack, sendToStepMode } from '@/server/rounds/over-link';
import { recover } from '@/server/services/recover';
import { giveUpRound } from '@/server/rounds/by-hand';
import { slotCells } from '@/server/services/slot-service';
import { storeModule } from '@/server/services/module-service';
import { throwAway } from '@/server/services/vault-service';
import { isWhole } from '@/server/vault/vault';
import { ended } from '../fixtures/ended-job';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage, zipBytes } from '../fixtures/images';
import { begin, seen, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { freshServer, pieces, sha256 } from '../fixtures/server-world';

/*
 * What an image is follows from its bytes and from what packages state, never from who sends it; and what a
 * round needs stays.
 */

describe('what an image is', () => {
  let server: Awaited<ReturnType<typeof freshServer>>;
  beforeEach(async () => {
    server = await freshServer();
  });
  afterEach(() => server.end());

  const word = { from: 'package', package: 'hill.zip', partition: 'init_boot', verified: 'yes' } as const;
  const role = async (bytes: Uint8Array) => (await storeImage(sha256(bytes), pieces(bytes), word)).role;
  const report = (image: Uint8Array, fingerprint: string = FINGERPRINT): PackageReport => ({
    kind: 'update-zip',
    incremental: false,
    build: { ...UNKNOWN_BUILD, fingerprint, patchLevel: '2026-09-05', devices: ['hill'] },
    images: [plainImage('init_boot', image.length, { sha256: sha256(image) })],
    evidence: [],
    warnings: [],
    writes: [],
  });
  const open = (one: PackageReport, readBy: 'server' | 'page' = 'server') =>
    keepPackage({ fileName: 'hill.zip', sizeBytes: 1000, report: one, readBy });
  const bare = () => stockImage({ footer: false });
  /** Whole by its own digest, with another digest than the maker's image has. */
  const rebuilt = () => stockImage({ cmdline: 'another=1' });

  it('is not what its sender says', async () => expect(await role(await bare())).toBe('unknown'));
  it('is stock where a package on record states its hash', async () => {
    const image = await bare();
    await open(report(image));
    expect(await role(image)).toBe('stock');
  });
  it('becomes stock when the package comes after it', async () => {
    const image = await bare();
    expect(await role(image)).toBe('unknown');
    await open(report(image));
    expect((await findImage(sha256(image)))!.role).toBe('stock');
  });
  it('is not stock by what a page says that a package states, before it or after it', async () => {
    const image = await bare();
    await open(report(image), 'page');
    expect(await role(image)).toBe('unknown');
    await open(report(image), 'page');
    expect((await findImage(sha256(image)))!.role).toBe('unknown');
    await open(report(image), 'server');
    expect((await findImage(sha256(image)))!.role).toBe('stock');
  });
  it('is stock by its own digest where it names its build, and no package states another', async () => {
    expect(await role(await rebuilt())).toBe('stock');
  });
  it('is unknown where a package of its build states another hash, whatever its own digest says', async () => {
    await open(report(await stockImage()));
    expect(await role(await rebuilt())).toBe('unknown');
    await open(report(await stockImage({ fingerprint: AUGUST }), AUGUST));
    expect(await role(await stockImage())).toBe('stock');
  });
  it('is unknown where its digest holds and it names no build: anybody can make that', async () => {
    const bytes = await appendAvbFooter(
      await bare(),
      {
        partition: 'init_boot',
        partitionBytes: 256 * 1024,
        salt: seeded(3, 32),
        rollbackIndex: 1,
        release: 'x',
        properties: {},
      },
      nodePorts.digests,
    );
    expect(await role(bytes)).toBe('unknown');
  });
  it('twice the same module at the same time is one, and its file is there', async () => {
    const bytes = await zipBytes({
      'module.prop': 'id=lantern\nname=Lantern\nversion=1\nversionCode=1\nauthor=club\ndescription=light\n',
    });
    const results = await Promise.allSettled(
      [bytes, bytes, new Uint8Array(10), bytes].map((one) =>
        storeModule(sha256(bytes), pieces(one), 'lantern.zip'),
      ),
    );
    expect(results.map(({ status }) => status)).toEqual(['fulfilled', 'fulfilled', 'rejected', 'fulfilled']);
    expect(await isWhole('modules', sha256(bytes))).toBe(true);
  });
});

describe('a package that a page opened', () => {
  let server: Awaited<ReturnType<typeof freshServer>>;
  beforeEach(async () => {
    server = await freshServer();
  });
  afterEach(() => server.end());

  /** What a page sends of an archive whose images lie between much that opening it doesn't read. */
  async function opening() {
    const image = await stockImage();
    const zip = await zipBytes(
      { 'init_boot.img': image, 'system.img': seeded(5, 600_000), 'product.img': seeded(6, 600_000) },
      ['system.img', 'product.img'],
    );
    const source = countingSource(memorySource(zip, 'hill.zip'));
    const { report } = await openPackage(source, nodePorts);
    const ranges = rangesToSend(source.ranges, zip.length);
    const sent = Buffer.concat(ranges.map(([start, end]) => zip.subarray(start, end)));
    return { zip, image, report, ranges, sent, files: [{ name: 'hill.zip', size: zip.length, ranges }] };
  }

  it('is opened by the server too, from what opening it read', async () => {
    const { files, sent, report, zip } = await opening();
    expect(sent.length).toBeLessThan(zip.length / 2);
    await keepOpening(files, sent);
    expect(await listPackages()).toMatchObject([
      { fileName: 'hill.zip', sizeBytes: zip.length, report, readBy: 'server' },
    ]);
  });
  it.each([
    [
      'a range that it reads is missing',
      'not-found',
      (files: readonly OpenedFile[]) => files[0]!.ranges.slice(1),
    ],
    [
      'the bytes are too few for the ranges',
      'bad-field',
      (files: readonly OpenedFile[]) => [
        ...files[0]!.ranges.slice(0, -1),
        [files[0]!.ranges.at(-1)![0] - 1, files[0]!.size],
      ],
    ],
  ] as const)('is not remembered where %s', async (_what, code, change) => {
    const { files, sent, zip } = await opening();
    const ranges = change(files) as ByteRange[];
    const bytes =
      code === 'bad-field' ? sent : Buffer.concat(ranges.map(([start, end]) => zip.subarray(start, end)));
    expect(await codeOf(() => keepOpening([{ ...files[0]!, ranges }], bytes))).toBe(code);
    expect(await listPackages()).toEqual([]);
  });
  it('with more bytes than its ranges say is refused', async () => {
    const { files, sent } = await opening();
    expect(await codeOf(() => keepOpening(files, Buffer.concat([sent, Buffer.alloc(1)])))).toBe('bad-field');
  });
});

describe('what an open round needs', () => {
  let world: LaneWorld | null = null;
  afterEach(async () => {
    await world?.end();
    world = null;
  });
  it('is not thrown away, until the round is over', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'write-root' });
    const patched = await world.keepPatched(SEPTEMBER);
    const refused = await errorOf(() => throwAway(patched));
    expect(refused.code).toBe('refused');
    expect(refused.message).toContain('open round of North');
    expect(await isWhole('images', patched)).toBe(true);
    await giveUpRound(round, await version(round));
    await throwAway(patched);
    expect(await findImage(patched)).toBeNull();
  });

  it('and a server that ends while stock is put back leaves that partition unknown', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'bootloader' });
    await sendToStepMode(round, await version(round));
    await seen('its bootloader', ({ state }) => state.mode === 'bootloader');
    world.clock.stop();
    // nothing of this round was written yet: the step that stands there writes nothing by itself
    const job = await putStockBack(round, await version(round));
    const end = ended(job);
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    await recover();
    expect(
      (await slotCells(world.handset)).find((cell) => cell.partition === 'init_boot' && cell.slot === 'a'),
    ).toMatchObject({
      verdict: 'unknown',
    });
    world.clock.go();
    await end;
  });
  it('nor while somebody asks for what is not there', async () => {
    world = await laneWorld();
    expect(await codeOf(() => throwAway('0'.repeat(64)))).toBe('not-found');
  });
});
