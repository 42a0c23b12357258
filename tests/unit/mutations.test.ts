import { createHash } from 'node:crypto';
import { brotliCompressSync } from 'node:zlib';
import { describe, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { concatBytes } from '@/core/bytes/bytes';
import { memorySink } from '@/core/bytes/image-sink';
import type { CodecName } from '@/core/codecs/codec';
import { EternoError } from '@/core/errors';
import { applyBinaryPatch } from '@/core/formats/binary-patch/apply-patch';
import { writeBinaryPatch } from '@/core/formats/binary-patch/write-patch';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { parseFlashList } from '@/core/formats/flash-list/parse-flash-list';
import { writeIncrementalPayload } from '@/core/formats/payload/write-incremental';
import { writePayload } from '@/core/formats/payload/writer';
import { writeSparse } from '@/core/formats/sparse/writer';
import { writeVendorBoot } from '@/core/formats/vendor-boot/writer';
import { archiveBytes } from '@/core/formats/cpio/cpio-archive';
import { examineKit } from '@/core/kits/read-kit';
import { inspectImage } from '@/core/packages/inspect-image';
import { listRamdisk } from '@/core/packages/list-ramdisk';
import { openPackage } from '@/core/packages/open-package';
import { roleOfOpened } from '@/core/table/roll-call';
import { nodePorts } from '@/platform/node/node-ports';
import { answersProperly } from '../fixtures/expect-error';
import {
  archive,
  entry,
  FINGERPRINT,
  folder,
  kitZip,
  seeded,
  stockImage,
  utf8,
  zipBytes,
} from '../fixtures/images';
import { mutated, numbers } from '../fixtures/mutate';
import { SEED, times } from '../fixtures/soak';
import { tarBytes } from '../fixtures/tars';

/* Damaged copies of every format, seeded: some in every run, ten thousand of each in a soak. */

const COUNT = times(60, 10_000);
const BLOCK = 4096;

interface Kind {
  readonly name: string;
  readonly base: () => Promise<Uint8Array>;
  readonly read: (bytes: Uint8Array) => Promise<unknown>;
}

const source = (bytes: Uint8Array) => memorySource(bytes, 'damaged');
const image = async (bytes: Uint8Array) => {
  await inspectImage(source(bytes), nodePorts);
  return listRamdisk(source(bytes), nodePorts);
};
/** Opens a package and takes everything out that it says it has. */
async function takeAll(bytes: Uint8Array, old?: Uint8Array): Promise<void> {
  const pack = await openPackage(source(bytes), nodePorts);
  for (const one of pack.report.images.slice(0, 4)) {
    const sink = memorySink(one.partition);
    await pack.take(one.partition, sink, {}, old ? source(old) : null).catch((thrown: unknown) => {
      if (!(thrown instanceof EternoError)) throw thrown;
    });
  }
}

const about = { blockSize: BLOCK, maxTimestamp: 5, securityPatchLevel: '2026-11-05' };
const OLD = seeded(4, 4 * BLOCK);
const FRESH = (() => {
  const bytes = OLD.slice();
  bytes[5]! ^= 1;
  bytes.fill(0, BLOCK, 2 * BLOCK);
  return bytes;
})();
const brotli = {
  packing: 'brotli' as const,
  pack: (bytes: Uint8Array) => new Uint8Array(brotliCompressSync(bytes)),
};
const patch = (a: Uint8Array, b: Uint8Array) => writeBinaryPatch(a, b, brotli);
const codec = (name: CodecName): Kind => ({
  name: `${name} streams`,
  base: async () =>
    name === 'brotli' ? brotli.pack(seeded(2, 9000)) : nodePorts.codecs.encode(name, seeded(2, 9000)),
  read: (bytes) => nodePorts.codecs.decode(name, bytes, 1 << 20),
});
const fromBase64 = (text: string) => async () => new Uint8Array(Buffer.from(text, 'base64'));
const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest('hex');

const KINDS: readonly Kind[] = [
  ...([0, 1, 2, 3, 4] as const).map((version): Kind => ({
    name: `boot images ${version}`,
    base: () =>
      stockImage({
        version,
        codec: 'gzip',
        kernel: seeded(3, 5000),
        partition: 'boot',
        partitionBytes: 128 * 1024,
      }),
    read: image,
  })),
  { name: 'init_boot images in lz4', base: () => stockImage({ partitionBytes: 64 * 1024 }), read: image },
  {
    name: 'init_boot images in xz',
    base: () => stockImage({ codec: 'xz', partitionBytes: 64 * 1024 }),
    read: image,
  },
  {
    name: 'bare ramdisks',
    base: () => stockImage({ codec: 'none', partitionBytes: 64 * 1024 }),
    read: image,
  },
  {
    name: 'vendor_boot images',
    base: async () =>
      writeVendorBoot({
        pageSize: 4096,
        name: 'hill',
        cmdline: 'x',
        dtb: seeded(1, 900),
        bootconfig: seeded(2, 50),
        ramdisks: [
          { type: 'platform', name: '', bytes: archiveBytes(archive(folder('a'), entry('a/b', 'c'))) },
          {
            type: 'recovery',
            name: 'r',
            bytes: await nodePorts.codecs.encode('gzip', archiveBytes(archive(entry('x', 'y')))),
          },
        ],
      }),
    read: image,
  },
  {
    name: 'sparse images',
    base: async () => {
      const parts: Uint8Array[] = [];
      await writeSparse(
        source(await stockImage({ partitionBytes: 64 * 1024 })),
        async (bytes) => void parts.push(bytes.slice()),
      );
      return concatBytes(parts);
    },
    read: (bytes) => takeAll(bytes),
  },
  {
    name: 'update payloads',
    base: async () =>
      concatBytes(
        (
          await writePayload(
            [
              {
                name: 'init_boot',
                bytes: FRESH,
                runs: [
                  { type: 'REPLACE_XZ', startBlock: 0, blockCount: 3 },
                  { type: 'REPLACE', startBlock: 3, blockCount: 1 },
                ],
              },
            ],
            about,
            nodePorts,
          )
        ).parts,
      ),
    read: (bytes) => takeAll(bytes),
  },
  {
    name: 'incremental payloads',
    base: async () =>
      concatBytes(
        (
          await writeIncrementalPayload(
            [{ name: 'init_boot', old: OLD, fresh: FRESH, runBlocks: 1 }],
            about,
            patch,
            nodePorts,
          )
        ).parts,
      ),
    read: (bytes) => takeAll(bytes, OLD),
  },
  {
    name: 'binary patches',
    base: async () => patch(OLD, FRESH),
    read: (bytes) => applyBinaryPatch(OLD, bytes, FRESH.length, nodePorts.codecs),
  },
  {
    name: 'image ZIPs',
    base: async () =>
      zipBytes({
        'android-info.txt': 'require board=a\n',
        'init_boot.img': await stockImage({ partitionBytes: 64 * 1024 }),
        'dtbo.img': seeded(1, 3000),
      }),
    read: (bytes) => takeAll(bytes),
  },
  {
    name: 'factory ZIPs',
    base: async () =>
      zipBytes({ 'h/image-h.zip': await zipBytes({ 'boot.img': seeded(1, 4000) }) }, ['h/image-h.zip']),
    read: (bytes) => takeAll(bytes),
  },
  {
    name: 'flash-list ZIPs',
    base: async () =>
      zipBytes({
        'l.xml': `<l><s partition="dtbo" filename="dtbo.img" MD5="${md5(seeded(1, 3000))}"/></l>`,
        'dtbo.img': seeded(1, 3000),
      }),
    read: (bytes) => takeAll(bytes),
  },
  {
    name: 'recovery and module ZIPs',
    base: async () =>
      zipBytes({ 'note.prop': 'id=a\nname=b\nversion=c\n', 'install.sh': 'dd of=/dev/block/by-name/boot\n' }),
    read: async (bytes) =>
      roleOfOpened(source(bytes), (await openPackage(source(bytes), nodePorts)).report, nodePorts),
  },
  {
    name: 'tars',
    base: async () =>
      tarBytes(
        [
          { name: 'boot.img', bytes: seeded(1, 900) },
          { name: 'dtbo.img.lz4', bytes: await nodePorts.codecs.encode('lz4-frame', seeded(2, 5000)) },
        ],
        'a.tar',
      ),
    read: (bytes) => takeAll(bytes),
  },
  { name: 'kits', base: () => kitZip(), read: (bytes) => examineKit(source(bytes), nodePorts) },
  {
    name: 'flash lists',
    base: async () => utf8(`<l><s partition="boot_a" filename="b.img" MD5="${md5(OLD)}"/></l>`),
    read: async (bytes) => parseFlashList(new TextDecoder().decode(bytes), 'x', nodePorts.readXml),
  },
  {
    name: 'property dumps',
    base: async () => utf8(`[ro.build.fingerprint]: [${FINGERPRINT}]\n(bootloader) has-slot:boot:yes\n`),
    read: async (bytes) => interpretFacts(parsePrinted(new TextDecoder().decode(bytes)).values),
  },
  ...(['gzip', 'lz4-legacy', 'lz4-frame', 'xz', 'brotli'] as const).map(codec),
  {
    name: 'lzma streams',
    base: fromBase64('XQAAgAD//////////wA6HIhGMh8+b9RD/7d3mIaW3+z///3rMAA='),
    read: (bytes) => nodePorts.codecs.decode('lzma', bytes, 1 << 20),
  },
  {
    name: 'bzip2 streams',
    base: fromBase64('QlpoOTFBWSZTWUFrQWcAAA7RgAAQQAA4JBYAIAAiPUAaEAMJwdtEWYccIpkjxdyRThQkEFrQWcA='),
    read: (bytes) => nodePorts.codecs.decode('bzip2', bytes, 1 << 20),
  },
  {
    name: 'zstd streams',
    base: fromBase64('KLUv/QRYlQAAYHRyYWlsIGNsdWIgCgEA3ooXu7HgOw=='),
    read: (bytes) => nodePorts.codecs.decode('zstd', bytes, 1 << 20),
  },
];

describe('damaged copies are answered with a typed error or a result, before the time is up', () => {
  it.each(KINDS)(
    '$name',
    async ({ name, base, read }) => {
      const whole = await base();
      await read(whole);
      const next = numbers([...name].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), SEED));
      for (let i = 0; i < COUNT; i += 1) {
        const bytes = mutated(whole, next);
        await answersProperly(() => read(bytes));
      }
    },
    60_000 + COUNT * 1000,
  );

  it.each(KINDS)('$name, cut off anywhere near their edges', async ({ base, read }) => {
    const whole = await base();
    const cuts = [0, 1, 4, 8, 16, 40, 64, 511, 512, 1632, 2048, 4095, 4096].filter(
      (cut) => cut < whole.length,
    );
    for (const cut of [...cuts, ...[1, 12, 22, 64, 65].map((back) => Math.max(0, whole.length - back))])
      await answersProperly(() => read(whole.subarray(0, cut)));
  });
});
