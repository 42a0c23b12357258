import type { ByteSource } from '../../bytes/byte-source';
import { startsWith } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import type { VendorBootHeader, VendorRamdiskEntry, VendorSection, VendorSectionName } from './layout';
import {
  layOutVendorSections,
  parseRamdiskTable,
  parseVendorBootHeader,
  VENDOR_BOOT_MAGIC,
  VENDOR_HEADER_BYTES,
} from './layout';

export interface VendorBootImage {
  readonly source: ByteSource;
  readonly header: VendorBootHeader;
  readonly sections: readonly VendorSection[];
  /** End of the last section's own bytes, and the next page after it. */
  readonly end: number;
  readonly alignedEnd: number;
  /** As the table of version 4 lists them; version 3 has one without a name. */
  readonly ramdisks: readonly VendorRamdiskEntry[];
}

/** By its first bytes. */
export const isVendorBoot = async (source: ByteSource): Promise<boolean> =>
  startsWith(await source.read(0, Math.min(source.size, VENDOR_BOOT_MAGIC.length)), VENDOR_BOOT_MAGIC);

/** @throws {EternoError} of the layout, `truncated` where a section runs past the end */
export async function readVendorBoot(source: ByteSource): Promise<VendorBootImage> {
  if (source.size > LIMITS.imageBytes)
    throw new EternoError('too-large', `a vendor_boot image of ${source.size} bytes`, { file: source.name });
  const header = parseVendorBootHeader(
    await source.read(0, Math.min(source.size, VENDOR_HEADER_BYTES)),
    source.name,
  );
  const { sections, end, alignedEnd } = layOutVendorSections(header);
  for (const { name, offset, size } of sections) {
    if (offset + size > source.size)
      throw new EternoError(
        'truncated',
        `the ${name} ends at byte ${offset + size}, but the file has only ${source.size}`,
        {
          file: source.name,
          offset,
        },
      );
  }
  const table = sections.find((section) => section.name === 'ramdisk_table');
  // without a table there is one ramdisk, and it is the platform's
  const whole: VendorRamdiskEntry = {
    type: 'platform',
    name: '',
    offset: 0,
    size: header.sizes.vendor_ramdisk,
  };
  const ramdisks = table
    ? parseRamdiskTable(
        await source.read(table.offset, table.offset + table.size),
        header,
        source.name,
        table.offset,
      )
    : header.sizes.vendor_ramdisk > 0
      ? [whole]
      : [];
  return { source, header, sections, end, alignedEnd, ramdisks };
}

/** A section's bytes without padding; empty where the image has none. */
export async function vendorSectionBytes(
  { source, sections }: VendorBootImage,
  name: VendorSectionName,
): Promise<Uint8Array<ArrayBuffer>> {
  const section = sections.find((one) => one.name === name);
  return section ? source.read(section.offset, section.offset + section.size) : new Uint8Array(0);
}

/** One ramdisk's bytes as they stand, packed; none of an empty one. */
export async function vendorRamdiskBytes(
  image: VendorBootImage,
  { offset, size }: VendorRamdiskEntry,
): Promise<Uint8Array<ArrayBuffer>> {
  const section = image.sections.find((one) => one.name === 'vendor_ramdisk');
  if (!section || size === 0) return new Uint8Array(0);
  return image.source.read(section.offset + offset, section.offset + offset + size);
}
