import type { ByteSource } from '../bytes/byte-source';
import { equalBytes } from '../bytes/bytes';
import type { AvbData } from '../formats/avb/reader';
import { readAvbFooter } from '../formats/avb/reader';
import { readRamdisk } from '../formats/cpio/ramdisk';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { rewriteRamdiskTable, rewriteVendorHeader } from '../formats/vendor-boot/layout';
import type { VendorBootImage } from '../formats/vendor-boot/reader';
import { readVendorBoot, vendorRamdiskBytes, vendorSectionBytes } from '../formats/vendor-boot/reader';
import type { Ports } from '../ports';
import type { SectionNow } from './apply-sections';
import { takenBack } from './apply-sections';
import type { AppliedSteps } from './apply-steps';
import type { Promised, ProofLine } from './prove-patch';
import { avbLines, entryLines, kindLine, lengthLine, line, tailLines } from './prove-patch';
import { rebuildVendorBoot } from './rebuild-vendor';

/** What a ramdisk of vendor_boot was to become: these very bytes, or the stock's with the kit's changes. */
export type NewFragment =
  | { readonly by: 'file'; readonly bytes: Uint8Array }
  | { readonly by: 'kit'; readonly ramdisk: Ramdisk; readonly applied: AppliedSteps };

export interface ChangedVendorBoot {
  readonly image: VendorBootImage;
  readonly avb: AvbData | null;
  /** By index in the table. */
  readonly fragments: ReadonlyMap<number, NewFragment>;
  /** The command line as it is to be. */
  readonly cmdline: string;
  /** Null where no step changed it. */
  readonly dtb: SectionNow | null;
}

/**
 * Reads a changed vendor_boot afresh and holds it against its stock (docs/method.md, "Proof of a patch").
 * @throws {EternoError} where the result can't be read at all
 */
export async function proveVendorBoot(
  stock: ChangedVendorBoot,
  result: ByteSource,
  ports: Ports,
  promised: Promised = {},
): Promise<ProofLine[]> {
  const [patched, patchedAvb] = [await readVendorBoot(result), await readAvbFooter(result)];
  return [
    lengthLine(stock, result, promised.partitionSize),
    ...(await sectionLines(stock, patched)),
    await headerLine(stock, patched),
    ...(await ramdiskLines(stock, patched, ports, promised.gzipInstead ?? false)),
    ...(await tailLines(stock, { image: patched, avb: patchedAvb })),
    ...(await avbLines(stock.avb, patchedAvb, result, promised.avb?.mode ?? 'carry', ports)),
    await backLine(stock, { image: patched, avb: patchedAvb }, ports),
  ];
}

async function sectionLines(
  { image, dtb: changed }: ChangedVendorBoot,
  patched: VendorBootImage,
): Promise<ProofLine[]> {
  const lines: ProofLine[] = [];
  for (const name of ['dtb', 'bootconfig'] as const) {
    const [own, fresh] = [await vendorSectionBytes(image, name), await vendorSectionBytes(patched, name)];
    if (name === 'dtb' && changed !== null)
      lines.push(
        line('the dtb is the stock’s with exactly the kit’s changes', equalBytes(fresh, changed.bytes)),
      );
    else if (own.length > 0 || fresh.length > 0)
      lines.push(line(`${name} is byte for byte the stock's`, equalBytes(own, fresh)));
  }
  return lines;
}

async function headerLine(stock: ChangedVendorBoot, patched: VendorBootImage): Promise<ProofLine> {
  const [own, fresh] = [
    await vendorSectionBytes(stock.image, 'header'),
    await vendorSectionBytes(patched, 'header'),
  ];
  const { vendor_ramdisk: ramdiskBytes } = patched.header.sizes;
  const isSaid = stock.cmdline !== stock.image.header.cmdline;
  return line(
    'the header differs in nothing but what the patch may change',
    equalBytes(rewriteVendorHeader(own, { ramdiskBytes, cmdline: isSaid ? stock.cmdline : null }), fresh),
  );
}

async function ramdiskLines(
  { image, fragments }: ChangedVendorBoot,
  patched: VendorBootImage,
  ports: Ports,
  gzipInstead: boolean,
): Promise<ProofLine[]> {
  const [own, fresh] = [
    await vendorSectionBytes(image, 'ramdisk_table'),
    await vendorSectionBytes(patched, 'ramdisk_table'),
  ];
  const sameTable =
    patched.ramdisks.length === image.ramdisks.length &&
    own.length === fresh.length &&
    equalBytes(own.length > 0 ? rewriteRamdiskTable(fresh, image.ramdisks) : fresh, own);
  const lines = [line('types, names and board ids of its ramdisks are the stock’s, in its order', sameTable)];
  if (!sameTable) return lines;
  let others = true;
  for (const [i, entry] of image.ramdisks.entries()) {
    const bytes = await vendorRamdiskBytes(patched, patched.ramdisks[i]!);
    const changed = fragments.get(i);
    if (!changed) others &&= equalBytes(bytes, await vendorRamdiskBytes(image, entry));
    else lines.push(...(await fragmentLines(changed, bytes, ports, gzipInstead)));
  }
  return [...lines, line('every other ramdisk is byte for byte the stock’s', others)];
}

async function fragmentLines(
  changed: NewFragment,
  bytes: Uint8Array,
  { codecs }: Ports,
  gzipInstead: boolean,
): Promise<ProofLine[]> {
  if (changed.by === 'file')
    return [line('the new ramdisk is the file’s, byte for byte', equalBytes(bytes, changed.bytes))];
  const fresh = await readRamdisk(bytes, codecs);
  return [
    kindLine(changed.ramdisk, fresh, gzipInstead),
    ...entryLines(changed.ramdisk, fresh, changed.applied),
  ];
}

/** Puts everything back that was changed, in the image as it was read afresh. */
async function backLine(
  stock: ChangedVendorBoot,
  patched: { readonly image: VendorBootImage; readonly avb: AvbData | null },
  ports: Ports,
): Promise<ProofLine> {
  const { image, avb, fragments, dtb } = stock;
  const old = new Map<number, Uint8Array>();
  for (const i of fragments.keys()) old.set(i, await vendorRamdiskBytes(image, image.ramdisks[i]!));
  const { bytes } = await rebuildVendorBoot(
    patched.image,
    patched.avb && avb && { ...patched.avb, blob: avb.blob },
    {
      fragments: old,
      ...(dtb ? { dtb: takenBack(await vendorSectionBytes(patched.image, 'dtb'), dtb.edits) } : {}),
      ...(stock.cmdline === image.header.cmdline ? {} : { cmdline: image.header.cmdline }),
    },
    ports,
  );
  const end = avb?.footer ? avb.footer.originalImageSize : image.source.size;
  return line(
    'put back, what was changed gives the stock image byte for byte',
    equalBytes(bytes.subarray(0, end), await image.source.read(0, end)),
  );
}
