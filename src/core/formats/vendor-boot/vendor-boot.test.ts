import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../../tests/fixtures/expect-error';
import { archive, entry, folder, seeded } from '../../../../tests/fixtures/images';
import { nodePorts } from '../../../platform/node/node-ports';
import { memorySource } from '../../bytes/byte-source';
import { ByteWriter } from '../../bytes/byte-writer';
import { concatBytes } from '../../bytes/bytes';
import { archiveBytes } from '../../formats/cpio/cpio-archive';
import { inspectImage } from '../../packages/inspect-image';
import { listRamdisk } from '../../packages/list-ramdisk';
import { openPackage } from '../../packages/open-package';
import { VENDOR_BOOT_MAGIC } from './layout';
import { readVendorBoot, vendorRamdiskBytes } from './reader';
import { tries } from '../../../../tests/fixtures/soak';

interface Fragment {
  readonly type: number;
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** A vendor_boot of version 3 or 4 by hand. */
function vendorBoot(
  version: 3 | 4,
  fragments: readonly Fragment[],
  change: { readonly offset?: number; readonly type?: number } = {},
): Uint8Array {
  const ramdisk = concatBytes(fragments.map((fragment) => fragment.bytes));
  const dtb = seeded(5, 3000);
  const bootconfig = seeded(6, 50);
  const out = new ByteWriter(8192)
    .bytes(VENDOR_BOOT_MAGIC)
    .u32le(version)
    .u32le(4096)
    .u32le(0)
    .u32le(0)
    .u32le(ramdisk.length);
  out
    .ascii('console=null', 2048)
    .u32le(0)
    .ascii('hill', 16)
    .u32le(version === 3 ? 2112 : 2128)
    .u32le(dtb.length)
    .u64le(0);
  if (version === 4)
    out
      .u32le(fragments.length * 108)
      .u32le(fragments.length)
      .u32le(108)
      .u32le(bootconfig.length);
  out.align(4096).bytes(ramdisk).align(4096).bytes(dtb).align(4096);
  if (version === 3) return out.finish();
  let at = 0;
  for (const { type, name, bytes } of fragments) {
    out
      .u32le(bytes.length)
      .u32le(change.offset ?? at)
      .u32le(change.type ?? type)
      .ascii(name, 32)
      .zeros(64);
    at += bytes.length;
  }
  return out.align(4096).bytes(bootconfig).align(4096).finish();
}
const platform = () => archiveBytes(archive(folder('first_stage'), entry('first_stage/fstab.hill', 'x')));
const recovery = async () =>
  nodePorts.codecs.encode('gzip', archiveBytes(archive(entry('init.recovery.rc', 'y'))));
const both = async () => [
  { type: 1, name: '', bytes: platform() },
  { type: 2, name: 'recovery', bytes: await recovery() },
];

describe('vendor_boot images', () => {
  it('of version 4 are read with their ramdisks, and where the recovery lives', async () => {
    const bytes = vendorBoot(4, await both());
    const image = await readVendorBoot(memorySource(bytes));
    expect(image.header).toMatchObject({ version: 4, name: 'hill', cmdline: 'console=null', pageSize: 4096 });
    expect(image.sections.map((section) => section.name)).toEqual([
      'header',
      'vendor_ramdisk',
      'dtb',
      'ramdisk_table',
      'bootconfig',
    ]);
    expect(image.ramdisks.map(({ type, name }) => [type, name])).toEqual([
      ['platform', ''],
      ['recovery', 'recovery'],
    ]);
    expect(await vendorRamdiskBytes(image, image.ramdisks[1]!)).toEqual(await recovery());
    const report = await inspectImage(memorySource(bytes), nodePorts);
    expect(report).toMatchObject({
      kind: 'vendor_boot',
      headerVersion: 4,
      ramdisks: [
        { compression: 'none', entries: 2 },
        { compression: 'gzip', entries: 1 },
      ],
    });
    expect(
      (await listRamdisk(memorySource(bytes), nodePorts)).archives.flatMap((one) =>
        one.entries.map((e) => e.name),
      ),
    ).toEqual(['first_stage', 'first_stage/fstab.hill', 'init.recovery.rc']);
    expect((await openPackage(memorySource(bytes), nodePorts)).report.images[0]!.partition).toBe(
      'vendor_boot',
    );
  });

  it('of version 3 have one ramdisk', async () => {
    const image = await readVendorBoot(
      memorySource(vendorBoot(3, [{ type: 0, name: '', bytes: platform() }])),
    );
    expect(image.ramdisks).toEqual([{ type: 'platform', name: '', offset: 0, size: platform().length }]);
  });

  it('are refused where ramdisks overlap, leave their section or have no known type', async () => {
    expect(
      await codeOf(async () => readVendorBoot(memorySource(vendorBoot(4, await both(), { offset: 0 })))),
    ).toBe('overlap');
    expect(
      await codeOf(async () =>
        readVendorBoot(memorySource(vendorBoot(4, await both(), { offset: 1_000_000 }))),
      ),
    ).toBe('truncated');
    expect(
      await codeOf(async () => readVendorBoot(memorySource(vendorBoot(4, await both(), { type: 9 })))),
    ).toBe('bad-field');
  });

  it('are refused at every cut of header and sections', async () => {
    const bytes = vendorBoot(4, await both());
    const { sections } = await readVendorBoot(memorySource(bytes));
    const last = sections.at(-1)!;
    for (const cut of [
      0,
      7,
      8,
      15,
      2095,
      2111,
      2127,
      ...sections.map(({ offset, size }) => offset + size - 1),
    ]) {
      if (cut < last.offset + last.size)
        expect(await codeOf(() => readVendorBoot(memorySource(bytes.subarray(0, cut)))), `${cut}`).toMatch(
          /truncated|bad-magic/,
        );
    }
  });

  it('survive any numbers in header and table', async () => {
    const base = vendorBoot(4, await both());
    const { sections } = await readVendorBoot(memorySource(base));
    const table = sections.find((section) => section.name === 'ramdisk_table')!;
    const at = fc.oneof(
      fc.nat(47),
      fc.integer({ min: 2090, max: 2127 }),
      fc.integer({ min: table.offset, max: table.offset + table.size - 9 }),
    );
    await fc.assert(
      fc.asyncProperty(at, fc.uint8Array({ minLength: 1, maxLength: 8 }), async (place, change) => {
        const bytes = base.slice();
        bytes.set(change, place);
        await answersProperly(() => readVendorBoot(memorySource(bytes)));
      }),
      tries(300),
    );
  });
});
