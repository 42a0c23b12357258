import { alignUp } from '../bytes/bytes';
import type { AvbData } from '../formats/avb/reader';
import { layFragments } from '../formats/vendor-boot/fragments';
import type { VendorSectionName } from '../formats/vendor-boot/layout';
import {
  layOutVendorSections,
  rewriteRamdiskTable,
  rewriteVendorHeader,
} from '../formats/vendor-boot/layout';
import type { VendorBootImage } from '../formats/vendor-boot/reader';
import { vendorSectionBytes } from '../formats/vendor-boot/reader';
import type { Ports } from '../ports';
import type { RebuildOptions, RebuiltImage } from './place-content';
import { placeContent } from './place-content';

/** What of vendor_boot is to be another; all else stays as it is. */
export interface NewVendorParts {
  /** Ramdisks as they go in, packed, by their index in the table. */
  readonly fragments: ReadonlyMap<number, Uint8Array>;
  readonly dtb?: Uint8Array;
  readonly cmdline?: string;
}

/**
 * The image with other ramdisks, device tree and command line; everything else byte for byte, verified-boot data
 * carried along.
 * @throws {EternoError} of `placeContent`
 */
export async function rebuildVendorBoot(
  image: VendorBootImage,
  avb: AvbData | null,
  fresh: NewVendorParts,
  ports: Ports,
  options: RebuildOptions = {},
): Promise<RebuiltImage> {
  const { header, source, ramdisks } = image;
  const laid = layFragments(await vendorSectionBytes(image, 'vendor_ramdisk'), ramdisks, fresh.fragments);
  const layout = layOutVendorSections({
    ...header,
    sizes: { ...header.sizes, vendor_ramdisk: laid.section.length },
  });
  const headerPages = Math.min(alignUp(header.headerSize, header.pageSize), source.size);
  const contentOf = async (name: VendorSectionName): Promise<Uint8Array> => {
    switch (name) {
      case 'header':
        return rewriteVendorHeader(await source.read(0, headerPages), {
          ramdiskBytes: laid.section.length,
          cmdline: fresh.cmdline ?? null,
        });
      case 'vendor_ramdisk':
        return laid.section;
      case 'ramdisk_table':
        return rewriteRamdiskTable(await vendorSectionBytes(image, name), laid.ramdisks);
      case 'dtb':
        return fresh.dtb ?? vendorSectionBytes(image, name);
      case 'bootconfig':
        return vendorSectionBytes(image, name);
    }
  };
  return placeContent(
    image,
    avb,
    layout,
    async (out) => {
      for (const { name, offset } of layout.sections) out.set(await contentOf(name), offset);
    },
    ports,
    options,
  );
}
