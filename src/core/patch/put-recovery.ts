import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { equalBytes } from '../bytes/bytes';
import { sha256Hex, sha256OfSource } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import { readAvbFooter } from '../formats/avb/reader';
import type { BootImage } from '../formats/boot-image/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { fragmentNamed } from '../formats/vendor-boot/fragments';
import { isVendorBoot, readVendorBoot, vendorRamdiskBytes } from '../formats/vendor-boot/reader';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import { needProof } from './need-proof';
import type { RebuildOptions } from './place-content';
import type { ProofLine } from './prove-patch';
import { avbLines, lengthLine, line, otherSectionLines, tailLines } from './prove-patch';
import { headerDifferences, rebuildImage } from './rebuild';
import type { ReplacedFragment } from './replace-fragment';
import { replaceFragment } from './replace-fragment';

/*
 * A recovery of one's own where recovery shares its partition with other things: only its ramdisk goes into this
 * build's stock image (docs/method.md, "A recovery in a partition that it shares").
 */

/** The recovery's ramdisk is called this in a vendor_boot with a table. */
export const RECOVERY_FRAGMENT = 'recovery';

/**
 * This build's stock boot or vendor_boot with the ramdisk of a recovery in the place of its own, rebuilt and
 * proved.
 * @param recovery an image whose ramdisk is the recovery: of boot's shape, or a vendor_boot with a recovery
 *   fragment
 * @throws {EternoError} `bad-magic` and what the readers find wrong; `not-found` where there is no recovery
 *   fragment, `unsupported` (a vendor_boot without a table, an image without a ramdisk), `does-not-fit`,
 *   `too-large`; `bad-hash` when a line of the proof fails
 */
export async function putRecovery(
  stock: ByteSource,
  recovery: ByteSource,
  ports: Ports,
  options: RebuildOptions = {},
  watch: Watch = {},
): Promise<ReplacedFragment> {
  const ramdisk = memorySource(await recoveryRamdisk(recovery), recovery.name);
  return (await isVendorBoot(stock))
    ? replaceFragment(stock, RECOVERY_FRAGMENT, ramdisk, ports, options, watch)
    : replaceRamdisk(stock, ramdisk, ports, options, watch);
}

/** The ramdisk of a recovery as it lies in its image, packed. @throws {EternoError} as `putRecovery` */
export async function recoveryRamdisk(recovery: ByteSource): Promise<Uint8Array> {
  if (await isVendorBoot(recovery)) {
    const image = await readVendorBoot(recovery);
    if (image.header.version === 3)
      throw new EternoError(
        'unsupported',
        'a vendor_boot of version 3 has one ramdisk and no table of them',
        {
          file: recovery.name,
        },
      );
    return vendorRamdiskBytes(image, image.ramdisks[fragmentNamed(image, RECOVERY_FRAGMENT)]!);
  }
  return sectionBytes(await needRamdisk(recovery), 'ramdisk');
}

async function needRamdisk(source: ByteSource): Promise<BootImage> {
  const image = await readBootImage(source);
  if (image.header.sizes.ramdisk === 0)
    throw new EternoError('unsupported', 'this image has no ramdisk', { file: source.name });
  return image;
}

async function replaceRamdisk(
  stock: ByteSource,
  ramdisk: ByteSource,
  ports: Ports,
  options: RebuildOptions,
  { signal }: Watch,
): Promise<ReplacedFragment> {
  const [image, avb] = [await needRamdisk(stock), await readAvbFooter(stock)];
  if (ramdisk.size > LIMITS.ramdiskBytes)
    throw new EternoError('too-large', `a ramdisk of ${ramdisk.size} bytes`, { file: ramdisk.name });
  const bytes = await ramdisk.read(0, ramdisk.size);
  const { cmdline } = image.header;
  const rebuilt = await rebuildImage(image, avb, { ramdisk: bytes }, cmdline, ports, options);
  throwIfAborted(signal);
  const proof = await proveReplaced(
    stock,
    bytes,
    memorySource(rebuilt.bytes, 'changed image'),
    ports,
    options,
  );
  return {
    bytes: rebuilt.bytes,
    partition: 'boot',
    sha256: await sha256Hex(ports.digests, rebuilt.bytes),
    stockSha256: await sha256OfSource(ports.digests, stock, signal),
    changes: { added: [], removed: [], changed: ['ramdisk'], moved: [] },
    proof: needProof(proof, stock.name),
    notes: rebuilt.notes,
  };
}

/** Reads a changed image afresh and holds it against its stock image and the ramdisk that was to go in. */
async function proveReplaced(
  stock: ByteSource,
  ramdisk: Uint8Array,
  result: ByteSource,
  ports: Ports,
  options: RebuildOptions,
): Promise<ProofLine[]> {
  const own = { image: await readBootImage(stock), avb: await readAvbFooter(stock) };
  const made = { image: await readBootImage(result), avb: await readAvbFooter(result) };
  return [
    lengthLine(own, result, options.partitionSize),
    ...(await otherSectionLines(own.image, made.image)),
    line('the header differs in nothing but what a ramdisk changes', await sameHeader(own.image, made.image)),
    line(
      'the new ramdisk is the recovery’s, byte for byte',
      equalBytes(await sectionBytes(made.image, 'ramdisk'), ramdisk),
    ),
    ...(await tailLines(own, made)),
    ...(await avbLines(own.avb, made.avb, result, options.avb?.mode ?? 'carry', ports)),
    await backLine(own, made, ports),
  ];
}

async function sameHeader(stock: BootImage, made: BootImage): Promise<boolean> {
  const page = ({ source, header }: BootImage) => source.read(0, Math.min(header.pageSize, source.size));
  return (
    made.header.cmdline === stock.header.cmdline &&
    headerDifferences(await page(stock), await page(made), stock.header.version).length === 0
  );
}

type Read = Parameters<typeof tailLines>[0] & { readonly image: BootImage };

/** Puts the stock ramdisk back in the image as it was read afresh. */
async function backLine(stock: Read, made: Read, ports: Ports): Promise<ProofLine> {
  const { image, avb } = stock;
  const { bytes } = await rebuildImage(
    made.image,
    made.avb && avb && { ...made.avb, blob: avb.blob },
    { ramdisk: await sectionBytes(image, 'ramdisk') },
    image.header.cmdline,
    ports,
  );
  const end = avb?.footer ? avb.footer.originalImageSize : image.source.size;
  return line(
    'put back, the stock’s ramdisk gives the stock image byte for byte',
    equalBytes(bytes.subarray(0, end), await image.source.read(0, end)),
  );
}

/** Whether a boot image is the stock image with nothing but its ramdisk replaced. */
export async function onlyRamdiskReplaced(stock: ByteSource, made: ByteSource): Promise<boolean> {
  const [own, other] = [await readBootImage(stock), await readBootImage(made)];
  const lines = await otherSectionLines(own, other);
  return (
    own.header.version === other.header.version &&
    own.header.pageSize === other.header.pageSize &&
    lines.every(({ ok }) => ok) &&
    (await sameHeader(own, other))
  );
}
