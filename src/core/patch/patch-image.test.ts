import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import type { StockOptions } from '../../../tests/fixtures/images';
import {
  archive,
  BZIP2_RAMDISK,
  entry,
  FINGERPRINT,
  folder,
  KIT_STEPS,
  kitZip,
  seeded,
  stockEntries,
  stockImage,
  utf8,
} from '../../../tests/fixtures/images';
import { noise } from '../../demo/noise';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { sha256Hex } from '../bytes/digest';
import { readAvbFooter } from '../formats/avb/reader';
import { writeBootImage } from '../formats/boot-image/writer';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { archiveBytes, nameOf } from '../formats/cpio/cpio-archive';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { readKit } from '../kits/read-kit';
import { inspectImage } from '../packages/inspect-image';
import { readRamdiskFile } from '../packages/list-ramdisk';
import { patchImage, proveAgain } from './patch-image';

const source = (bytes: Uint8Array) => memorySource(bytes, 'stock.img');
const kitOf = async (change: object = {}) =>
  (await readKit(memorySource(await kitZip(change)), nodePorts)).kit;
const patch = async (stock: Uint8Array, change: object = {}, options = {}) =>
  patchImage(source(stock), await kitOf(change), nodePorts, options);
const without = (...names: string[]) => ({ steps: KIT_STEPS.filter((step) => !names.includes(step.do)) });

const KINDS: readonly (readonly [string, StockOptions])[] = [
  ['init_boot 4, lz4, footer', {}],
  ['init_boot 3, gzip, footer', { version: 3, codec: 'gzip' }],
  ['init_boot 4, xz, footer', { codec: 'xz' }],
  ['init_boot 4, zstd, footer', { codec: 'zstd', partitionBytes: 512 * 1024 }],
  ['init_boot 4, lzma, footer', { codec: 'lzma' }],
  ['init_boot 4, not packed, no footer', { codec: 'none', footer: false }],
  ['boot 2, gzip, footer', { version: 2, codec: 'gzip', partition: 'boot', kernel: seeded(4, 9000) }],
  ['boot 1, gzip, no footer', { version: 1, codec: 'gzip', footer: false, kernel: seeded(4, 9000) }],
  ['boot 0, lz4, footer', { version: 0, partition: 'boot', kernel: seeded(4, 5000) }],
  ['with a marker behind it', { tail: utf8('MAKERMARK') }],
];

describe('patching', () => {
  it.each(KINDS)('%s gives an image whose every check holds', async (_what, options) => {
    const stock = await stockImage(options);
    const room = options.footer === false ? { partitionSize: 256 * 1024 } : {};
    const result = await patch(stock, {}, room);
    expect(result.proof.length).toBeGreaterThan(5);
    expect(result.proof.filter((line) => !line.ok)).toEqual([]);
    const report = await inspectImage(memorySource(result.bytes), nodePorts);
    expect(report.idValid).toBe((await inspectImage(source(stock), nodePorts)).idValid);
    expect(result.notes.some((note) => note.includes('no effect on the running system'))).toBe(
      !report.kernelPresent,
    );
    expect(report.patchedBy).toEqual({ kit: 'burrow 7.3', stockSha256: result.stockSha256 });
    expect(report.cmdline).toBe('console=null burrow=1');
    expect(report.ramdisk?.compression).toBe(
      (await inspectImage(source(stock), nodePorts)).ramdisk?.compression,
    );
    expect(result.changes).toEqual({
      added: ['.burrow', '.burrow/su', 'init', '.burrow/provenance.json', 'sbin-su'],
      removed: ['verity_key'],
      changed: ['first_stage_ramdisk/fstab.demo'],
      moved: ['init -> .burrow/init.stock'],
    });
  });

  it('of a kind that can’t be written is refused, or packed as gzip on the person’s word', async () => {
    const stock = await stockImage({ packed: BZIP2_RAMDISK });
    const error = await errorOf(() => patch(stock));
    expect(error.code).toBe('unsupported');
    expect(error.details?.['gzipInstead']).toBe(true);
    const { bytes, proof } = await patch(stock, {}, { gzipInstead: true });
    expect(proof.every((line) => line.ok)).toBe(true);
    expect((await inspectImage(memorySource(bytes), nodePorts)).ramdisk).toMatchObject({
      compression: 'gzip',
      entries: 8,
    });
    const again = await proveAgain(source(stock), await kitOf(), source(bytes), nodePorts);
    expect(again.filter((line) => !line.ok).map((line) => line.check)).toEqual([
      'the ramdisk is packed in the kind it came in',
    ]);
    expect(
      (await proveAgain(source(stock), await kitOf(), source(bytes), nodePorts, { gzipInstead: true })).every(
        (line) => line.ok,
      ),
    ).toBe(true);
  });

  it('gives the same bytes every time', async () => {
    const stock = await stockImage();
    expect((await patch(stock)).bytes).toEqual((await patch(stock)).bytes);
  });

  it('leaves every other section and the marker behind it byte for byte', async () => {
    const kernel = seeded(9, 30_000);
    const stock = await stockImage({
      version: 2,
      codec: 'gzip',
      partition: 'boot',
      kernel,
      tail: utf8('MAKERMARK'),
    });
    const { bytes } = await patch(stock);
    const image = await readBootImage(memorySource(bytes));
    expect(await sectionBytes(image, 'kernel')).toEqual(kernel);
    const avb = (await readAvbFooter(memorySource(bytes)))!;
    expect(
      new TextDecoder().decode(
        bytes.subarray(avb.footer!.originalImageSize - 9, avb.footer!.originalImageSize),
      ),
    ).toBe('MAKERMARK');
    expect(avb.footer!.originalImageSize - 9).toBe(image.alignedEnd);
  });

  it('carries the verified-boot block, which then no longer speaks for the image', async () => {
    const stock = await stockImage();
    const { bytes, notes } = await patch(stock);
    const [before, after] = [
      (await readAvbFooter(source(stock)))!,
      (await readAvbFooter(memorySource(bytes)))!,
    ];
    expect(after.blob).toEqual(before.blob);
    expect(bytes.length).toBe(stock.length);
    expect(notes.join()).toContain('verified-boot');
    expect((await inspectImage(memorySource(bytes), nodePorts)).avb?.digestValid).toBe(false);
  });

  it('writes the build it was told, else the one the image names', async () => {
    const stock = await stockImage();
    const note = async (options: object) =>
      new TextDecoder().decode(
        await readRamdiskFile(
          memorySource((await patch(stock, {}, options)).bytes),
          '.burrow/provenance.json',
          nodePorts,
        ),
      );
    expect(JSON.parse(await note({}))).toEqual({
      stock: await sha256Hex(nodePorts.digests, stock),
      kit: 'burrow 7.3',
      build: FINGERPRINT,
    });
    expect(JSON.parse(await note({ fingerprint: 'told' }))).toMatchObject({ build: 'told' });
  });

  it('packs again only the stream that changed', async () => {
    const first = archiveBytes(archive(folder('dev', 1), entry('init', seeded(3, 5000), { ino: 2 })));
    const second = archiveBytes(archive(folder('late', 3)));
    const ramdisk = concatBytes([
      await nodePorts.codecs.encode('gzip', first),
      new Uint8Array(12),
      await nodePorts.codecs.encode('lz4-legacy', second),
    ]);
    const stock = writeBootImage({
      version: 4,
      pageSize: 4096,
      osVersionField: 0,
      name: '',
      cmdline: '',
      kernel: new Uint8Array(0),
      ramdisk,
    });
    const { bytes } = await patchImage(
      source(stock),
      await kitOf({ steps: [{ do: 'mkdir', path: '.burrow', mode: '0750' }], marker: undefined }),
      nodePorts,
      { partitionSize: 65536 },
    );
    const before = (await readRamdisk(ramdisk, nodePorts.codecs)).streams[0]!;
    const after = await readRamdisk(
      await sectionBytes(await readBootImage(memorySource(bytes)), 'ramdisk'),
      nodePorts.codecs,
    );
    expect(after.streams[0]!.packed).toEqual(before.packed);
    expect(after.streams[0]!.padding).toEqual(before.padding);
    expect(archivesOf(after)[1]!.entries.map(nameOf)).toEqual(['late', '.burrow']);
  });
});

describe('refusals', () => {
  it('of an image that is patched already, naming by what and from which stock image', async () => {
    const stock = await stockImage();
    const { bytes } = await patch(stock);
    const error = await errorOf(() => patch(bytes));
    expect(error.code).toBe('already-patched');
    expect(error.details).toEqual({
      kit: 'burrow 7.3',
      stockSha256: await sha256Hex(nodePorts.digests, stock),
    });
  });

  it('of a partition or a release the kit is not for', async () => {
    const stock = await stockImage({ partition: 'recovery' });
    expect(await codeOf(() => patch(stock))).toBe('refused');
    const own = await stockImage();
    expect(await codeOf(() => patch(own, {}, { sdk: 38 }))).toBe('refused');
    expect(await codeOf(() => patch(own, {}, { architecture: 'riscv' }))).toBe('refused');
    expect((await patch(own, {}, { sdk: 37, architecture: 'arm64' })).partition).toBe('init_boot');
  });

  it('of an image without a ramdisk', async () => {
    const boot = writeBootImage({
      version: 4,
      pageSize: 4096,
      osVersionField: 0,
      name: '',
      cmdline: '',
      kernel: seeded(1, 5000),
      ramdisk: new Uint8Array(0),
    });
    expect(await codeOf(() => patch(boot))).toBe('unsupported');
  });

  it('of what does not fit, with the bytes over', async () => {
    const stock = await stockImage({
      partitionBytes: 36_864,
      entries: [...stockEntries(), entry('more', noise(5, 10_000), { ino: 20 })],
    });
    const big = await kitOf({
      steps: [
        ...KIT_STEPS.slice(0, 3),
        {
          do: 'write',
          path: '.burrow/pad',
          mode: '0644',
          text: Buffer.from(noise(6, 20_000)).toString('hex'),
        },
      ],
      marker: undefined,
    });
    const error = await errorOf(() => patchImage(source(stock), big, nodePorts));
    expect(error.code).toBe('does-not-fit');
    expect(Number(error.details?.['bytesOver'])).toBeGreaterThan(0);
  });

  it('of what is one byte longer than its partition, and not of what fills it', async () => {
    const stock = await stockImage({ footer: false, codec: 'gzip' });
    const pad = Buffer.from(noise(6, 40_000)).toString('hex');
    const big = await kitOf({
      steps: [...KIT_STEPS.slice(0, 3), { do: 'write', path: '.burrow/pad', mode: '0644', text: pad }],
      marker: undefined,
    });
    const { bytes } = await patchImage(source(stock), big, nodePorts, { partitionSize: 1 << 20 });
    expect(bytes.length).toBeGreaterThan(stock.length);
    expect((await patchImage(source(stock), big, nodePorts, { partitionSize: bytes.length })).bytes).toEqual(
      bytes,
    );
    const error = await errorOf(() =>
      patchImage(source(stock), big, nodePorts, { partitionSize: bytes.length - 1 }),
    );
    expect(error).toMatchObject({ code: 'does-not-fit', details: { bytesOver: 1, room: bytes.length - 1 } });
    expect(await codeOf(() => patchImage(source(stock), big, nodePorts))).toBe('does-not-fit');
  });

  it('of a kit whose step does not go with the image', async () => {
    const error = await errorOf(async () => patch(await stockImage({ entries: [folder('dev')] })));
    expect(error).toMatchObject({ code: 'kit-step-failed', details: { step: 2 } });
  });

  it('when it is stopped', async () => {
    const abort = new AbortController();
    abort.abort();
    const kit = await kitOf();
    const stock = await stockImage();
    expect(await codeOf(() => patchImage(source(stock), kit, nodePorts, {}, { signal: abort.signal }))).toBe(
      'cancelled',
    );
  });
});

describe('the proof', () => {
  const failing = async (stock: Uint8Array, result: Uint8Array, change: object = {}) =>
    (await proveAgain(source(stock), await kitOf(change), memorySource(result), nodePorts))
      .filter((line) => !line.ok)
      .map((line) => line.check);

  it('holds for an honest result', async () => {
    const stock = await stockImage();
    expect(await failing(stock, (await patch(stock)).bytes)).toEqual([]);
  });

  it('finds one changed byte in a section, the header, the tail or the verified-boot block', async () => {
    const stock = await stockImage({
      version: 2,
      codec: 'gzip',
      partition: 'boot',
      kernel: seeded(9, 9000),
      tail: utf8('MAKERMARK'),
    });
    const { bytes } = await patch(stock);
    const image = await readBootImage(memorySource(bytes));
    const footer = (await readAvbFooter(memorySource(bytes)))!.footer!;
    const places: [number, RegExp][] = [
      [image.sections.find((s) => s.name === 'kernel')!.offset + 10, /kernel/],
      [48, /header/],
      [footer.originalImageSize - 3, /behind the last section/],
      [footer.vbmetaOffset + 200, /verified-boot block/],
      [footer.vbmetaOffset + footer.vbmetaSize + 5, /only zeros/],
    ];
    for (const [at, check] of places) {
      const changed = bytes.slice();
      changed[at]! ^= 1;
      expect((await failing(stock, changed)).join('; '), `byte ${at}`).toMatch(check);
    }
  });

  it('finds an entry that nobody asked for', async () => {
    const stock = await stockImage();
    const { bytes } = await patch(stock, {
      steps: [...KIT_STEPS, { do: 'write', path: 'extra', text: 'x', mode: '0644' }],
    });
    expect(await failing(stock, bytes)).toContain(
      'the entries are the stock’s with exactly the kit’s changes',
    );
  });

  it('finds a change that was left out', async () => {
    const stock = await stockImage();
    expect(await failing(stock, (await patch(stock, without('remove'))).bytes)).not.toEqual([]);
    expect(await failing(stock, (await patch(stock, without('cmdline'))).bytes)).toContain(
      'the command line is the stock’s with the kit’s words',
    );
  });

  it('finds the image of another build', async () => {
    const [stock, other] = [
      await stockImage(),
      await stockImage({ fingerprint: FINGERPRINT.replace('9001', '9002') }),
    ];
    expect(await failing(stock, (await patch(other)).bytes)).not.toEqual([]);
  });
});
