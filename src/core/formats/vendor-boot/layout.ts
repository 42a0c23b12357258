import { ByteCursor } from '../../bytes/byte-cursor';
import { alignUp, cString, latin1, startsWith } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/* vendor_boot, versions 3 and 4 (docs/formats.md, "Vendor boot image"). Pure layouts. All fields LE. */

export const VENDOR_BOOT_MAGIC = latin1('VNDRBOOT');
export const VENDOR_HEADER_BYTES = 2128;
export const TABLE_ENTRY_BYTES = 108;

export type VendorSectionName = 'header' | 'vendor_ramdisk' | 'dtb' | 'ramdisk_table' | 'bootconfig';
export type VendorRamdiskType = 'none' | 'platform' | 'recovery' | 'dlkm';
export const VENDOR_RAMDISK_TYPES: readonly VendorRamdiskType[] = ['none', 'platform', 'recovery', 'dlkm'];

export interface VendorBootHeader {
  readonly version: 3 | 4;
  readonly pageSize: number;
  readonly headerSize: number;
  readonly cmdline: string;
  readonly name: string;
  readonly sizes: Readonly<Record<Exclude<VendorSectionName, 'header'>, number>>;
  readonly tableEntries: number;
}

export interface VendorRamdiskEntry {
  readonly type: VendorRamdiskType;
  readonly name: string;
  /** Within the vendor ramdisk section. */
  readonly offset: number;
  readonly size: number;
}

/** Fields of the header that a rebuilt image changes, and of a row of the table. */
const RAMDISK_SIZE_AT = 24;
const CMDLINE_AT = 28;
export const CMDLINE_BYTES = 2048;

/** The header with another vendor ramdisk size and command line; everything else as it was. */
export function rewriteVendorHeader(
  header: Uint8Array,
  { ramdiskBytes, cmdline }: { readonly ramdiskBytes: number; readonly cmdline: string | null },
): Uint8Array<ArrayBuffer> {
  const out = header.slice();
  new DataView(out.buffer).setUint32(RAMDISK_SIZE_AT, ramdiskBytes, true);
  if (cmdline !== null) {
    out.fill(0, CMDLINE_AT, CMDLINE_AT + CMDLINE_BYTES);
    out.set(latin1(cmdline), CMDLINE_AT);
  }
  return out;
}

/** The table with other sizes and offsets; types, names and board ids as they were. */
export function rewriteRamdiskTable(
  table: Uint8Array,
  ramdisks: readonly Pick<VendorRamdiskEntry, 'offset' | 'size'>[],
): Uint8Array<ArrayBuffer> {
  const out = table.slice();
  const view = new DataView(out.buffer);
  for (const [i, { offset, size }] of ramdisks.entries()) {
    view.setUint32(i * TABLE_ENTRY_BYTES, size, true);
    view.setUint32(i * TABLE_ENTRY_BYTES + 4, offset, true);
  }
  return out;
}

const bad = (what: string, file: string, offset: number) =>
  new EternoError('bad-field', `vendor_boot header: ${what}`, { file, offset });

/**
 * @param bytes the file's first `VENDOR_HEADER_BYTES`, or all of a shorter one
 * @throws {EternoError} `bad-magic`, `truncated`, `bad-field`, `unsupported`
 */
export function parseVendorBootHeader(bytes: Uint8Array, file: string): VendorBootHeader {
  if (!startsWith(bytes, VENDOR_BOOT_MAGIC))
    throw new EternoError('bad-magic', 'this is no vendor_boot image', { file, offset: 0 });
  const cursor = new ByteCursor(bytes, 8, file);
  const version = cursor.u32le();
  if (version !== 3 && version !== 4)
    throw new EternoError('unsupported', `vendor_boot version ${version}`, { file, offset: 8 });
  const pageSize = cursor.u32le();
  if (pageSize < 2048 || pageSize > 65536 || (pageSize & (pageSize - 1)) !== 0)
    throw bad(`page size ${pageSize}`, file, 12);
  cursor.skip(8);
  const vendorRamdisk = cursor.u32le();
  const cmdline = cString(cursor.take(2048));
  cursor.skip(4);
  const name = cString(cursor.take(16));
  const headerSize = cursor.u32le();
  if (headerSize !== (version === 3 ? 2112 : 2128))
    throw bad(`header size ${headerSize} in version ${version}`, file, 2096);
  const dtb = cursor.u32le();
  cursor.skip(8);
  const base = { version, pageSize, headerSize, cmdline, name } as const;
  if (version === 3)
    return {
      ...base,
      tableEntries: 0,
      sizes: { vendor_ramdisk: vendorRamdisk, dtb, ramdisk_table: 0, bootconfig: 0 },
    };
  const table = cursor.u32le();
  const tableEntries = cursor.u32le();
  const entryBytes = cursor.u32le();
  const bootconfig = cursor.u32le();
  if (tableEntries > LIMITS.ramdiskArchives)
    throw new EternoError('too-large', `a table of ${tableEntries} ramdisks`, { file, offset: 2116 });
  if (tableEntries > 0 && entryBytes !== TABLE_ENTRY_BYTES)
    throw bad(`table entries of ${entryBytes} bytes`, file, 2120);
  if (table < tableEntries * TABLE_ENTRY_BYTES)
    throw bad('the ramdisk table is shorter than its entries', file, 2112);
  return {
    ...base,
    tableEntries,
    sizes: { vendor_ramdisk: vendorRamdisk, dtb, ramdisk_table: table, bootconfig },
  };
}

const ORDER = ['vendor_ramdisk', 'dtb', 'ramdisk_table', 'bootconfig'] as const;

export interface VendorSection {
  readonly name: VendorSectionName;
  readonly offset: number;
  /** Without padding. */
  readonly size: number;
}

/** Where every section lies; absent ones are left out. */
export function layOutVendorSections(header: Pick<VendorBootHeader, 'headerSize' | 'pageSize' | 'sizes'>): {
  readonly sections: readonly VendorSection[];
  readonly end: number;
  readonly alignedEnd: number;
} {
  const sections: VendorSection[] = [{ name: 'header', offset: 0, size: header.headerSize }];
  let end = header.headerSize;
  let offset = alignUp(end, header.pageSize);
  for (const name of ORDER) {
    const size = header.sizes[name];
    if (size === 0) continue;
    sections.push({ name, offset, size });
    end = offset + size;
    offset = alignUp(end, header.pageSize);
  }
  return { sections, end, alignedEnd: offset };
}

/** @throws {EternoError} `bad-field` type, `truncated` past the vendor ramdisk, `overlap` */
export function parseRamdiskTable(
  bytes: Uint8Array,
  header: VendorBootHeader,
  file: string,
  base: number,
): VendorRamdiskEntry[] {
  const cursor = new ByteCursor(bytes, 0, file, base);
  const entries = Array.from({ length: header.tableEntries }, (): VendorRamdiskEntry => {
    const at = base + cursor.at;
    const [size, offset, typeNumber] = [cursor.u32le(), cursor.u32le(), cursor.u32le()];
    const type = VENDOR_RAMDISK_TYPES[typeNumber];
    if (type === undefined) throw bad(`a ramdisk of the unknown type ${typeNumber}`, file, at + 8);
    const name = cString(cursor.take(32));
    cursor.skip(64);
    // an empty one may be said to lie anywhere
    if (size > 0 && offset + size > header.sizes.vendor_ramdisk)
      throw new EternoError('truncated', `the ramdisk "${name}" runs past its section`, { file, offset: at });
    return { type, name, offset, size };
  });
  const sorted = entries.filter(({ size }) => size > 0).sort((a, b) => a.offset - b.offset);
  sorted.forEach((entry, i) => {
    const before = sorted[i - 1];
    if (before && before.offset + before.size > entry.offset)
      throw new EternoError('overlap', `the ramdisks "${before.name}" and "${entry.name}" overlap`, {
        file,
        offset: base,
      });
  });
  return entries;
}
