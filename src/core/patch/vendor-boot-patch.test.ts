import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { archive, entry, kitZip, seeded, stockEntries, utf8 } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { readAvbFooter } from '../formats/avb/reader';
import { appendAvbFooter } from '../formats/avb/writer';
import { archiveBytes, nameOf } from '../formats/cpio/cpio-archive';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { fragmentNamed, layFragments } from '../formats/vendor-boot/fragments';
import type { VendorRamdiskType } from '../formats/vendor-boot/layout';
import { readVendorBoot, vendorRamdiskBytes, vendorSectionBytes } from '../formats/vendor-boot/reader';
import { writeVendorBoot } from '../formats/vendor-boot/writer';
import { readKit } from '../kits/read-kit';
import { inspectImage } from '../packages/inspect-image';
import { patchImage, proveAgain } from './patch-image';
import { unpatchImage } from './unpatch-image';
import { proveVendorBoot } from './prove-vendor';
import { replaceFragment } from './replace-fragment';

/* Ramdisks of vendor_boot: one replaced by a file, and each patched by a kit. */

const source = (bytes: Uint8Array, name = 'vendor_boot.img') => memorySource(bytes, name);
const ramdisk = (name: string, codec: 'gzip' | 'lz4-legacy' | 'zstd' = 'gzip') =>
  nodePorts.codecs.encode(
    codec,
    archiveBytes(archive(...stockEntries(), entry(`only-in-${name}`, seeded(name.length, 500)))),
  );

interface Fragment {
  readonly type: VendorRamdiskType;
  readonly name: string;
  readonly bytes: Uint8Array;
}
const THREE = async (): Promise<Fragment[]> => [
  { type: 'platform', name: '', bytes: await ramdisk('platform', 'lz4-legacy') },
  { type: 'recovery', name: 'recovery', bytes: await ramdisk('recovery') },
  { type: 'dlkm', name: 'extras', bytes: await ramdisk('extras', 'zstd') },
];
async function vendorBoot(
  fragments: readonly Fragment[],
  { footer = true, room = 256 * 1024, marker = new Uint8Array(0) } = {},
): Promise<Uint8Array> {
  const plain = writeVendorBoot({
    pageSize: 4096,
    name: 'hill',
    cmdline: 'console=null',
    ramdisks: fragments,
    dtb: seeded(5, 3000),
    bootconfig: seeded(6, 50),
  });
  const image = concatBytes([plain, marker]);
  if (!footer) return concatBytes([image, new Uint8Array(room - image.length)]);
  return appendAvbFooter(
    image,
    {
      partition: 'vendor_boot',
      partitionBytes: room,
      salt: seeded(3, 32),
      rollbackIndex: 5,
      release: 'test 1.0',
      properties: { 'com.android.build.vendor_boot.os_version': '16' },
    },
    nodePorts.digests,
  );
}
const fragmentsOf = async (bytes: Uint8Array) => {
  const image = await readVendorBoot(source(bytes));
  return Promise.all(image.ramdisks.map((one) => vendorRamdiskBytes(image, one)));
};
const replace = (stock: Uint8Array, which: string, bytes: Uint8Array, options = {}) =>
  replaceFragment(source(stock), which, source(bytes, 'new.img'), nodePorts, options);

describe('a ramdisk of vendor_boot', () => {
  it.each([
    ['smaller', 200],
    ['larger', 60_000],
    ['of no bytes', 0],
  ])('is replaced by one that is %s; all others stay, and so does everything else', async (_what, size) => {
    const old = await THREE();
    const stock = await vendorBoot(old, { marker: utf8('MAKERMARK') });
    const fresh = seeded(size, size);
    const { bytes, proof, sha256, stockSha256, changes } = await replace(stock, 'recovery', fresh);
    expect(proof.length).toBeGreaterThan(8);
    expect(proof.every(({ ok }) => ok)).toBe(true);
    expect(bytes.length).toBe(stock.length);
    expect(sha256).not.toBe(stockSha256);
    expect(changes.changed).toEqual(['recovery']);
    const now = await fragmentsOf(bytes);
    expect(now.map((one) => Buffer.compare(one, fresh) === 0)).toEqual([false, true, false]);
    expect(Buffer.compare(now[0]!, old[0]!.bytes)).toBe(0);
    expect(Buffer.compare(now[2]!, old[2]!.bytes)).toBe(0);
    const [a, b] = [await readVendorBoot(source(stock)), await readVendorBoot(source(bytes))];
    for (const name of ['dtb', 'bootconfig'] as const)
      expect(await vendorSectionBytes(b, name)).toEqual(await vendorSectionBytes(a, name));
    expect(b.header).toEqual({
      ...a.header,
      sizes: { ...a.header.sizes, vendor_ramdisk: expect.any(Number) },
    });
    // put back it is the stock image again
    const back = await replace(bytes, 'recovery', old[1]!.bytes);
    expect(Buffer.compare(back.bytes, stock)).toBe(0);
  });

  it('goes in as it is, and what can’t be read as a ramdisk is said', async () => {
    const stock = await vendorBoot(await THREE());
    const said = async (bytes: Uint8Array) =>
      (await replace(stock, 'recovery', bytes)).notes.some((note) => note.includes("can't be read"));
    expect(await said(seeded(1, 400))).toBe(true);
    expect(await said(await ramdisk('another'))).toBe(false);
  });

  it('is known by its type where one is of it, else by its name', async () => {
    const [platform, recovery, extras] = await THREE();
    const two = await vendorBoot([
      platform!,
      { ...recovery!, name: 'harbour' },
      { ...recovery!, name: 'shelter' },
    ]);
    const image = await readVendorBoot(source(two));
    expect(fragmentNamed(image, 'shelter')).toBe(2);
    expect(fragmentNamed(image, 'platform')).toBe(0);
    for (const word of ['recovery', 'attic', 'dlkm', ''])
      expect(await codeOf(async () => fragmentNamed(image, word)), word).toBe('not-found');
    // the word is a type and the name of one of several
    const named = await readVendorBoot(
      source(await vendorBoot([platform!, recovery!, { ...recovery!, name: 'b' }])),
    );
    expect(fragmentNamed(named, 'recovery')).toBe(1);
    const same = await readVendorBoot(source(await vendorBoot([extras!, { ...platform!, name: 'extras' }])));
    expect(await codeOf(async () => fragmentNamed(same, 'extras'))).toBe('not-found');
  });

  it.each([true, false])('that does not fit is refused with the bytes over (footer: %s)', async (footer) => {
    const stock = await vendorBoot(await THREE(), { footer });
    const error = await errorOf(() => replace(stock, 'recovery', seeded(1, 300_000)));
    expect(error.code).toBe('does-not-fit');
    expect(error.details?.['bytesOver']).toBeGreaterThan(0);
    // known to be larger, a partition without a footer takes it
    if (!footer)
      expect(
        (await replace(stock, 'recovery', seeded(1, 300_000), { partitionSize: 1 << 20 })).bytes.length,
      ).toBeGreaterThan(stock.length);
  });

  it('of version 3, which has no table, is not replaced', async () => {
    const three = (await vendorBoot(await THREE(), { footer: false })).slice();
    const view = new DataView(three.buffer);
    view.setUint32(8, 3, true);
    view.setUint32(2096, 2112, true);
    expect(await codeOf(() => replace(three, 'platform', seeded(1, 100)))).toBe('unsupported');
  });

  it('keeps verified-boot data, or has it brought up to date', async () => {
    const stock = await vendorBoot(await THREE());
    const own = (await readAvbFooter(source(stock)))!;
    const another = await ramdisk('another');
    const carried = await replace(stock, 'recovery', another);
    expect((await readAvbFooter(source(carried.bytes)))!.blob).toEqual(own.blob);
    const renewed = await replace(stock, 'recovery', another, { avb: { mode: 'rehash' } });
    const valid = async (bytes: Uint8Array) =>
      (await inspectImage(source(bytes), nodePorts)).avb?.digestValid;
    expect([await valid(stock), await valid(carried.bytes), await valid(renewed.bytes)]).toEqual([
      true,
      false,
      true,
    ]);
    const bare = await vendorBoot(await THREE(), { footer: false });
    expect(await codeOf(() => replace(bare, 'recovery', seeded(1, 400), { avb: { mode: 'rehash' } }))).toBe(
      'unsupported',
    );
  });

  it('is proved by what was read afresh: one byte of anything else fails it', async () => {
    const stock = await vendorBoot(await THREE());
    const fresh = seeded(1, 400);
    const { bytes } = await replace(stock, 'recovery', fresh);
    const image = await readVendorBoot(source(stock));
    const changed = {
      image,
      avb: await readAvbFooter(source(stock)),
      fragments: new Map([[1, { by: 'file' as const, bytes: fresh }]]),
      cmdline: image.header.cmdline,
      dtb: null,
    };
    const failing = async (at: number) => {
      const other = bytes.slice();
      other[at]! ^= 1;
      return (await proveVendorBoot(changed, source(other), nodePorts)).filter(({ ok }) => !ok).length;
    };
    const now = await readVendorBoot(source(bytes));
    const at = (name: string) => now.sections.find((one) => one.name === name)!.offset;
    expect((await proveVendorBoot(changed, source(bytes), nodePorts)).every(({ ok }) => ok)).toBe(true);
    const [, recovery, extras] = now.ramdisks;
    for (const where of [
      16,
      at('vendor_ramdisk') + 3,
      at('vendor_ramdisk') + recovery!.offset + 3,
      at('vendor_ramdisk') + extras!.offset + 3,
      at('dtb') + 10,
      at('bootconfig') + 10,
      // a board id of the table
      at('ramdisk_table') + 60,
    ])
      expect(await failing(where), String(where)).toBeGreaterThan(0);
  });
});

describe('laying ramdisks', () => {
  const row = (offset: number, size: number) => ({ type: 'platform' as const, name: '', offset, size });
  const section = seeded(9, 100);
  const laid = (rows: ReturnType<typeof row>[], fresh: ReadonlyMap<number, Uint8Array>) =>
    layFragments(section, rows, fresh);

  it('leaves what stands between them, whatever their order in the table', () => {
    const rows = [row(60, 20), row(10, 30)];
    const same = laid(rows, new Map());
    expect(same.section).toEqual(section);
    expect(same.ramdisks).toEqual(rows);
    const grown = laid(rows, new Map([[1, seeded(1, 35)]]));
    expect(grown.ramdisks.map(({ offset, size }) => [offset, size])).toEqual([
      [65, 20],
      [10, 35],
    ]);
    expect(grown.section).toEqual(
      concatBytes([section.subarray(0, 10), seeded(1, 35), section.subarray(40)]),
    );
  });
  it('puts something into an empty one, wherever that was said to lie', () => {
    for (const offset of [0, 30, 50, 5000]) {
      const { section: made, ramdisks } = laid(
        [row(0, 30), row(30, 70), row(offset, 0)],
        new Map([[2, seeded(4, 7)]]),
      );
      expect(made.length).toBe(107);
      const [a, b, filled] = ramdisks.map((one) => made.slice(one.offset, one.offset + one.size));
      expect([a, b, filled].map((one) => Buffer.from(one!).toString('hex'))).toEqual(
        [section.slice(0, 30), section.slice(30), seeded(4, 7)].map((one) =>
          Buffer.from(one).toString('hex'),
        ),
      );
    }
  });
});

describe('a kit on vendor_boot', () => {
  const kitOf = async (change: object) =>
    (
      await readKit(
        source(await kitZip({ formatVersion: 2, supports: {}, ...change }), 'x.kit.zip'),
        nodePorts,
      )
    ).kit;
  const patch = async (stock: Uint8Array, change: object) =>
    patchImage(source(stock), await kitOf(change), nodePorts);
  const write = (path: string, fragment?: string) => ({
    do: 'write',
    path,
    mode: '0640',
    text: 'x',
    ...(fragment === undefined ? {} : { fragment }),
  });
  const entriesOf = async (bytes: Uint8Array, index: number) => {
    const packed = (await fragmentsOf(bytes))[index]!;
    return archivesOf(await readRamdisk(packed, nodePorts.codecs)).flatMap(({ entries }) =>
      entries.map(nameOf),
    );
  };

  it('works on each ramdisk that its steps name, the platform’s where they name none', async () => {
    const old = await THREE();
    const stock = await vendorBoot(old);
    const change = { steps: [write('a'), write('b', 'recovery'), write('c', 'platform')] };
    const { bytes, proof, changes, partition } = await patch(stock, change);
    expect(partition).toBe('vendor_boot');
    expect(proof.every(({ ok }) => ok)).toBe(true);
    expect(changes.added.toSorted()).toEqual(['a', 'b', 'c']);
    expect((await entriesOf(bytes, 0)).slice(-2)).toEqual(['a', 'c']);
    expect((await entriesOf(bytes, 1)).at(-1)).toBe('b');
    expect(Buffer.compare((await fragmentsOf(bytes))[2]!, old[2]!.bytes)).toBe(0);
    const again = await proveAgain(source(stock), await kitOf(change), source(bytes), nodePorts);
    expect(again.every(({ ok }) => ok)).toBe(true);
    const other = await kitOf({ steps: [write('a'), write('b', 'recovery'), write('d', 'platform')] });
    expect((await proveAgain(source(stock), other, source(bytes), nodePorts)).some(({ ok }) => !ok)).toBe(
      true,
    );
  });

  it('changes its command line and its device tree, and has no kernel to change', async () => {
    const stock = await vendorBoot(await THREE());
    const dtb = seeded(5, 3000);
    const find = Buffer.from(dtb.subarray(100, 104)).toString('hex');
    const { bytes, proof } = await patch(stock, {
      steps: [
        { do: 'cmdline', append: 'burrow=1' },
        { do: 'replaceBytes', in: 'dtb', find, with: '00000000' },
      ],
    });
    expect(proof.every(({ ok }) => ok)).toBe(true);
    const image = await readVendorBoot(source(bytes));
    expect(image.header.cmdline).toBe('console=null burrow=1');
    expect((await vendorSectionBytes(image, 'dtb')).subarray(100, 104)).toEqual(new Uint8Array(4));
    expect(await codeOf(() => patch(stock, { steps: [{ do: 'kernel', from: 'files/su' }] }))).toBe(
      'kit-step-failed',
    );
  });

  it('is refused where it names none, another partition’s, an empty one, or what is patched already', async () => {
    const [platform, recovery, extras] = await THREE();
    const stock = await vendorBoot([platform!, recovery!, extras!]);
    expect(await codeOf(() => patch(stock, { steps: [write('a', 'attic')] }))).toBe('not-found');
    expect(
      await codeOf(() => patch(stock, { supports: { partitions: ['boot'] }, steps: [write('a')] })),
    ).toBe('refused');
    const empty = await vendorBoot([platform!, { ...recovery!, bytes: new Uint8Array(0) }]);
    expect(await codeOf(() => patch(empty, { steps: [write('a', 'recovery')] }))).toBe('unsupported');
    const change = { marker: 'note', steps: [write('note', 'recovery')] };
    const { bytes } = await patch(stock, change);
    expect(await codeOf(() => patch(bytes, change))).toBe('already-patched');
  });

  it('works on the only one where there is one, whatever its type', async () => {
    const [, recovery] = await THREE();
    const { bytes } = await patch(await vendorBoot([recovery!]), { steps: [write('a')] });
    expect((await entriesOf(bytes, 0)).at(-1)).toBe('a');
  });

  describe('is taken back', () => {
    const NOTE = '{"stock":"{{stock.sha256}}","kit":"{{kit.id}} {{kit.version}}"}';
    const change = {
      steps: [
        write('a', 'recovery'),
        { do: 'write', path: '.burrow.json', mode: '0640', text: NOTE, fragment: 'platform' },
        { do: 'cmdline', append: 'burrow=1' },
      ],
    };
    const back = async (image: Uint8Array, stock: Uint8Array | null, kit: object = change) =>
      unpatchImage(source(image), await kitOf(kit), stock && source(stock), nodePorts);

    it('each ramdisk by its own steps, to the stock image byte for byte', async () => {
      const stock = await vendorBoot(await THREE());
      const { bytes } = await patch(stock, change);
      const result = await back(bytes, null);
      expect(result.exact).toBe(true);
      expect(Buffer.compare(result.bytes, stock)).toBe(0);
    });
    it('with its stock image, which has to be the one', async () => {
      const stock = await vendorBoot(await THREE());
      const { bytes } = await patch(stock, change);
      expect(Buffer.compare((await back(bytes, stock)).bytes, stock)).toBe(0);
      const other = await vendorBoot(await THREE(), { marker: utf8('OTHER') });
      expect(await codeOf(() => back(bytes, other))).toBe('wrong-source');
      expect(await codeOf(() => back(bytes, stock, { steps: [write('a', 'recovery')] }))).toBe(
        'wrong-source',
      );
    });
    it('not where a step left too little behind, which is named as the kit counts it', async () => {
      const stock = await vendorBoot(await THREE());
      const find = Buffer.from(seeded(5, 3000).subarray(100, 104)).toString('hex');
      const steps = [...change.steps, { do: 'replaceBytes', in: 'dtb', find, with: '00000000' }];
      const { bytes } = await patch(stock, { steps });
      const error = await errorOf(() => back(bytes, null, { steps }));
      expect(error).toMatchObject({ code: 'not-found', details: { step: 4 } });
      expect(Buffer.compare((await back(bytes, stock, { steps })).bytes, stock)).toBe(0);
    });
  });
});
