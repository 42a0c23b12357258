import { ByteWriter } from '../../bytes/byte-writer';
import { concatBytes } from '../../bytes/bytes';
import { TABLE_ENTRY_BYTES, VENDOR_BOOT_MAGIC, VENDOR_HEADER_BYTES, VENDOR_RAMDISK_TYPES } from './layout';
import type { VendorRamdiskType } from './layout';

export interface VendorBootParts {
  readonly pageSize: number;
  readonly name: string;
  readonly cmdline: string;
  readonly ramdisks: readonly {
    readonly type: VendorRamdiskType;
    readonly name: string;
    readonly bytes: Uint8Array;
  }[];
  readonly dtb: Uint8Array;
  readonly bootconfig: Uint8Array;
}

const ADDRESS = { kernel: 0x8000, ramdisk: 0x1000000, tags: 0x100, dtb: 0x1f00000 } as const;

/** Writes a vendor_boot image of version 4 from its parts, every section padded to its page; no AVB data. */
export function writeVendorBoot({
  pageSize,
  name,
  cmdline,
  ramdisks,
  dtb,
  bootconfig,
}: VendorBootParts): Uint8Array<ArrayBuffer> {
  const ramdisk = concatBytes(ramdisks.map(({ bytes }) => bytes));
  const out = new ByteWriter(pageSize)
    .bytes(VENDOR_BOOT_MAGIC)
    .u32le(4)
    .u32le(pageSize)
    .u32le(ADDRESS.kernel)
    .u32le(ADDRESS.ramdisk);
  out
    .u32le(ramdisk.length)
    .ascii(cmdline, 2048)
    .u32le(ADDRESS.tags)
    .ascii(name, 16)
    .u32le(VENDOR_HEADER_BYTES)
    .u32le(dtb.length)
    .u64le(ADDRESS.dtb);
  out
    .u32le(ramdisks.length * TABLE_ENTRY_BYTES)
    .u32le(ramdisks.length)
    .u32le(TABLE_ENTRY_BYTES)
    .u32le(bootconfig.length);
  out.align(pageSize).bytes(ramdisk).align(pageSize).bytes(dtb).align(pageSize);
  let offset = 0;
  for (const { type, name: label, bytes } of ramdisks) {
    out
      .u32le(bytes.length)
      .u32le(offset)
      .u32le(VENDOR_RAMDISK_TYPES.indexOf(type))
      .ascii(label, 32)
      .zeros(64);
    offset += bytes.length;
  }
  return out.align(pageSize).bytes(bootconfig).align(pageSize).finish();
}
