import { ByteCursor } from '../../bytes/byte-cursor';
import { ByteWriter } from '../../bytes/byte-writer';
import { alignUp, cString, latin1, startsWith } from '../../bytes/bytes';
import { EternoError } from '../../errors';

/*
 * Boot image, versions 0 to 4 (docs/formats.md, "Boot image"). Pure: header bytes in, values out. All fields
 * LE.
 */

export const BOOT_MAGIC = latin1('ANDROID!');
/** The longest header of any version; reading this much tells everything. */
export const LONGEST_HEADER_BYTES = 1660;
const MODERN_PAGE_BYTES = 4096;

export type BootSectionName =
  'header' | 'kernel' | 'ramdisk' | 'second' | 'recovery_dtbo' | 'dtb' | 'dt' | 'signature';

/** Absolute offset and size without padding, in bytes. */
export interface BootSection {
  readonly name: BootSectionName;
  readonly offset: number;
  readonly size: number;
}

export interface BootHeader {
  readonly version: 0 | 1 | 2 | 3 | 4;
  /** The old variant whose version field is a device-tree size. */
  readonly dtVariant: boolean;
  readonly pageSize: number;
  readonly headerSize: number;
  /** As stored; 0 means not stated. */
  readonly osVersionField: number;
  readonly name: string;
  /** `cmdline` and `extra_cmdline` joined, one character a byte. */
  readonly cmdline: string;
  /** Bytes of the joined command line that stand in the first field (versions 0 to 2). */
  readonly cmdlineBreak: number;
  /** 32 bytes, versions 0 to 2. */
  readonly id: Uint8Array | null;
  readonly sizes: Readonly<Record<Exclude<BootSectionName, 'header'>, number>>;
}

const FIELD = {
  kernelSize: 8,
  ramdiskSizeOld: 16,
  ramdiskSizeNew: 12,
  version: 40,
  osVersionOld: 44,
  osVersionNew: 16,
  cmdlineOld: 64,
  cmdlineNew: 44,
  id: 576,
  extraCmdline: 608,
  recoveryDtboSize: 1632,
  recoveryDtboOffset: 1636,
} as const;
const CMDLINE_BYTES = { old: 512, extra: 1024, modern: 1536 } as const;

const bad = (what: string, file: string, offset: number) =>
  new EternoError('bad-field', `boot image header: ${what}`, { file, offset });

/**
 * @param bytes the file's first `LONGEST_HEADER_BYTES`, or all of a shorter file
 * @throws {EternoError} `bad-magic`, `truncated`, `bad-field`
 */
export function parseBootHeader(bytes: Uint8Array, file: string): BootHeader {
  if (!startsWith(bytes, BOOT_MAGIC))
    throw new EternoError('bad-magic', 'this is no boot image', { file, offset: 0 });
  const u32 = (at: number) => new ByteCursor(bytes, Math.min(at, bytes.length), file).u32le();
  const field = (at: number, size: number) =>
    new ByteCursor(bytes, Math.min(at, bytes.length), file).take(size);
  const versionField = u32(FIELD.version);
  const none = { kernel: 0, ramdisk: 0, second: 0, recovery_dtbo: 0, dtb: 0, dt: 0, signature: 0 };
  if (versionField === 3 || versionField === 4) {
    const headerSize = u32(20);
    const expected = versionField === 3 ? 1580 : 1584;
    if (headerSize !== expected)
      throw bad(`header size ${headerSize} where version ${versionField} has ${expected}`, file, 20);
    const cmdline = cString(field(FIELD.cmdlineNew, CMDLINE_BYTES.modern));
    return {
      version: versionField,
      dtVariant: false,
      pageSize: MODERN_PAGE_BYTES,
      headerSize,
      osVersionField: u32(FIELD.osVersionNew),
      name: '',
      cmdline,
      cmdlineBreak: cmdline.length,
      id: null,
      sizes: {
        ...none,
        kernel: u32(FIELD.kernelSize),
        ramdisk: u32(FIELD.ramdiskSizeNew),
        signature: versionField === 4 ? u32(1580) : 0,
      },
    };
  }
  const dtVariant = versionField > 4;
  const version = (dtVariant ? 0 : versionField) as 0 | 1 | 2;
  const pageSize = u32(36);
  if (pageSize < 2048 || pageSize > 16384 || (pageSize & (pageSize - 1)) !== 0)
    throw bad(`page size ${pageSize}`, file, 36);
  const headerSize = version === 0 ? 1632 : u32(1644);
  const expected = [1632, 1648, 1660][version];
  if (headerSize !== expected)
    throw bad(`header size ${headerSize} where version ${version} has ${expected}`, file, 1644);
  const first = cString(field(FIELD.cmdlineOld, CMDLINE_BYTES.old));
  const extra = cString(field(FIELD.extraCmdline, CMDLINE_BYTES.extra));
  return {
    version,
    dtVariant,
    pageSize,
    headerSize,
    osVersionField: u32(FIELD.osVersionOld),
    name: cString(field(48, 16)),
    cmdline: first + extra,
    cmdlineBreak: first.length,
    id: field(FIELD.id, 32).slice(),
    sizes: {
      ...none,
      kernel: u32(FIELD.kernelSize),
      ramdisk: u32(FIELD.ramdiskSizeOld),
      second: u32(24),
      recovery_dtbo: version >= 1 ? u32(FIELD.recoveryDtboSize) : 0,
      dtb: version === 2 ? u32(1648) : 0,
      dt: dtVariant ? versionField : 0,
    },
  };
}

const ORDER: readonly Exclude<BootSectionName, 'header'>[] = [
  'kernel',
  'ramdisk',
  'second',
  'recovery_dtbo',
  'dtb',
  'dt',
  'signature',
];

/**
 * Where every section lies; absent ones (size 0) are left out. `end` is the last byte used, `alignedEnd` the
 * next page.
 */
export function layOutSections(header: Pick<BootHeader, 'pageSize' | 'headerSize' | 'sizes'>): {
  sections: BootSection[];
  end: number;
  alignedEnd: number;
} {
  const sections: BootSection[] = [{ name: 'header', offset: 0, size: header.headerSize }];
  let end = header.headerSize;
  let offset = header.pageSize;
  for (const name of ORDER) {
    const size = header.sizes[name];
    if (size === 0) continue;
    sections.push({ name, offset, size });
    end = offset + size;
    offset = alignUp(end, header.pageSize);
  }
  return { sections, end, alignedEnd: offset };
}

/** `"15.0.0"`, or null where not stated. */
export function osVersionOf(field: number): string | null {
  const v = field >>> 11;
  return v === 0 ? null : `${v >>> 14}.${(v >>> 7) & 127}.${v & 127}`;
}

/** `"2026-09"`, or null where not stated. */
export function patchLevelOf(field: number): string | null {
  const p = field & 0x7ff;
  return p === 0 ? null : `${2000 + (p >>> 4)}-${String(p & 15).padStart(2, '0')}`;
}

/** @param version `[a, b, c]` @param patch `[year, month]` */
export function packOsVersion(
  version: readonly [number, number, number],
  patch: readonly [number, number],
): number {
  return (((version[0] << 14) | (version[1] << 7) | version[2]) << 11) | ((patch[0] - 2000) << 4) | patch[1];
}

/** What a patch may change in a header; all other bytes stay. */
export interface HeaderChange {
  readonly ramdiskSize: number;
  readonly kernelSize?: number;
  /** The joined line; `cmdlineBreak` of it stands in the first field in versions 0 to 2. */
  readonly cmdline?: { readonly text: string; readonly breakAt: number };
  readonly recoveryDtboOffset?: number;
  readonly id?: Uint8Array;
}

/** The header page with the change made. @param page the stock's first page, or as much of it as there is */
export function rewriteHeader(
  page: Uint8Array,
  header: BootHeader,
  change: HeaderChange,
): Uint8Array<ArrayBuffer> {
  const out = page.slice();
  const view = new DataView(out.buffer);
  const modern = header.version >= 3;
  view.setUint32(modern ? FIELD.ramdiskSizeNew : FIELD.ramdiskSizeOld, change.ramdiskSize, true);
  if (change.kernelSize !== undefined) view.setUint32(FIELD.kernelSize, change.kernelSize, true);
  if (change.cmdline) {
    const { text, breakAt } = change.cmdline;
    if (modern)
      out.set(
        new ByteWriter(CMDLINE_BYTES.modern).ascii(text, CMDLINE_BYTES.modern).finish(),
        FIELD.cmdlineNew,
      );
    else {
      out.set(
        new ByteWriter(CMDLINE_BYTES.old).ascii(text.slice(0, breakAt), CMDLINE_BYTES.old).finish(),
        FIELD.cmdlineOld,
      );
      out.set(
        new ByteWriter(CMDLINE_BYTES.extra).ascii(text.slice(breakAt), CMDLINE_BYTES.extra).finish(),
        FIELD.extraCmdline,
      );
    }
  }
  if (change.recoveryDtboOffset !== undefined)
    view.setBigUint64(FIELD.recoveryDtboOffset, BigInt(change.recoveryDtboOffset), true);
  if (change.id) out.set(change.id, FIELD.id);
  return out;
}

/** The stored `recovery_dtbo_offset` (bytes from the start of the image), version 1 and 2. */
export function recoveryDtboOffsetOf(page: Uint8Array): number {
  return new ByteCursor(page, FIELD.recoveryDtboOffset).u64le();
}
