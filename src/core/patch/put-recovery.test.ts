import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { archive, entry, seeded, stockEntries, stockImage } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { archiveBytes } from '../formats/cpio/cpio-archive';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { readVendorBoot, vendorRamdiskBytes } from '../formats/vendor-boot/reader';
import { writeVendorBoot } from '../formats/vendor-boot/writer';
import { isRecovery, recoveryClaim } from '../packages/recovery-claim';
import { onlyRamdiskReplaced, putRecovery, recoveryRamdisk } from './put-recovery';

/* A recovery goes into a stock image that it shares with other things: its ramdisk, and nothing else. */

const NOTE = JSON.stringify({ recovery: 'Lifeboat 3.8', opensUpTo: 36 });
const source = (bytes: Uint8Array, name: string) => memorySource(bytes, name);
const packed = (...more: ReturnType<typeof entry>[]) =>
  nodePorts.codecs.encode('gzip', archiveBytes(archive(...stockEntries(), ...more)));
const recoveryImage = () =>
  stockImage({
    partition: 'recovery',
    version: 2,
    codec: 'gzip',
    footer: false,
    kernel: seeded(9, 4000),
    entries: [...stockEntries(), entry('lifeboat.json', NOTE)],
  });
const vendorBoot = async (own: Uint8Array) =>
  writeVendorBoot({
    pageSize: 4096,
    name: 'hill',
    cmdline: 'console=null',
    ramdisks: [
      { type: 'platform', name: '', bytes: await packed(entry('platform-only', 'p')) },
      { type: 'recovery', name: 'recovery', bytes: own },
    ],
    dtb: seeded(5, 3000),
    bootconfig: seeded(6, 50),
  });
const roomy = (bytes: Uint8Array) => {
  const out = new Uint8Array(bytes.length + 128 * 1024);
  out.set(bytes);
  return out;
};

describe('a recovery put into boot', () => {
  it.each([
    [0, true],
    [2, true],
    [2, false],
    [3, true],
    [4, false],
  ] as const)(
    'of version %i, footer %s: kernel and all else stay, and it goes back',
    async (version, footer) => {
      const stock = await stockImage({
        partition: 'boot',
        version,
        footer,
        kernel: seeded(1, 30_000),
        tail: footer ? undefined : new Uint8Array(64 * 1024),
      });
      const recovery = await recoveryImage();
      const made = await putRecovery(source(stock, 'boot.img'), source(recovery, 'r.img'), nodePorts);
      expect(made.proof.every(({ ok }) => ok)).toBe(true);
      expect(made.bytes.length).toBe(stock.length);
      const [own, fresh] = [
        await readBootImage(source(stock, 'boot.img')),
        await readBootImage(source(made.bytes, 'made.img')),
      ];
      expect(await sectionBytes(fresh, 'kernel')).toEqual(await sectionBytes(own, 'kernel'));
      expect(await sectionBytes(fresh, 'ramdisk')).toEqual(await recoveryRamdisk(source(recovery, 'r.img')));
      expect(isRecovery(await recoveryClaim(source(made.bytes, 'made.img'), nodePorts)).says.code).toBe(
        footer ? 'image-of' : 'program',
      );
      expect(await onlyRamdiskReplaced(source(stock, 'a'), source(made.bytes, 'b'))).toBe(true);
    },
  );
  it('is not the only change where the kernel or the command line is another', async () => {
    const base = { partition: 'boot', version: 2, kernel: seeded(1, 30_000) } as const;
    const stock = source(await stockImage(base), 'a');
    const other = async (change: Parameters<typeof stockImage>[0]) =>
      onlyRamdiskReplaced(stock, source(await stockImage({ ...base, ...change }), 'b'));
    expect(await other({})).toBe(true);
    expect(await other({ kernel: seeded(2, 30_000) })).toBe(false);
    expect(await other({ cmdline: 'console=ttyS0' })).toBe(false);
    expect(await other({ version: 1 })).toBe(false);
  });
  it('does not fit, has no ramdisk, or is no image: said by its code', async () => {
    const stock = await stockImage({ partition: 'boot', version: 2, partitionBytes: 64 * 1024 });
    const large = await stockImage({
      version: 2,
      footer: false,
      codec: 'none',
      entries: [entry('large', new Uint8Array(70_000))],
    });
    const none = await stockImage({ version: 2, footer: false, packed: new Uint8Array(0) });
    const put = (recovery: Uint8Array, into = stock) =>
      putRecovery(source(into, 'boot.img'), source(recovery, 'r.img'), nodePorts);
    expect(await codeOf(() => put(large))).toBe('does-not-fit');
    expect(await codeOf(() => put(none))).toBe('unsupported');
    const recovery = await recoveryImage();
    expect(await codeOf(() => put(recovery, none))).toBe('unsupported');
    expect(await codeOf(() => put(seeded(3, 5000)))).toBe('bad-magic');
  });
});

describe('a recovery put into vendor_boot', () => {
  it('comes out of an image of its own or of another vendor_boot, and all other fragments stay', async () => {
    const stock = roomy(await vendorBoot(await packed(entry('maker', 'm'))));
    const ramdisk = await packed(entry('lifeboat.json', NOTE));
    for (const recovery of [await recoveryImage(), await vendorBoot(ramdisk)]) {
      const made = await putRecovery(source(stock, 'vendor_boot.img'), source(recovery, 'r'), nodePorts);
      expect(made).toMatchObject({ partition: 'vendor_boot', changes: { changed: ['recovery'] } });
      const [own, fresh] = [
        await readVendorBoot(source(stock, 'a')),
        await readVendorBoot(source(made.bytes, 'b')),
      ];
      expect(await vendorRamdiskBytes(fresh, fresh.ramdisks[0]!)).toEqual(
        await vendorRamdiskBytes(own, own.ramdisks[0]!),
      );
      expect(await vendorRamdiskBytes(fresh, fresh.ramdisks[1]!)).toEqual(
        await recoveryRamdisk(source(recovery, 'r')),
      );
    }
  });
  it('needs a recovery fragment on both sides', async () => {
    const without = writeVendorBoot({
      pageSize: 4096,
      name: '',
      cmdline: '',
      ramdisks: [{ type: 'platform', name: '', bytes: await packed() }],
      dtb: seeded(5, 300),
      bootconfig: new Uint8Array(0),
    });
    const whole = await vendorBoot(await packed());
    const put = (stock: Uint8Array, recovery: Uint8Array) =>
      putRecovery(source(stock, 'v'), source(recovery, 'r'), nodePorts);
    expect(await codeOf(() => put(without, whole))).toBe('not-found');
    expect(await codeOf(() => put(whole, without))).toBe('not-found');
  });
});
