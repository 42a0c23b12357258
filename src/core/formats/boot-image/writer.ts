import { memorySource } from '../../bytes/byte-source';
import { ByteWriter } from '../../bytes/byte-writer';
import type { Digests } from '../../bytes/digest';
import { BOOT_MAGIC, layOutSections } from './layout';
import { computeId, readBootImage, sectionBytes } from './reader';

export interface BootParts {
  readonly version: 0 | 1 | 2 | 3 | 4;
  /** Bytes; versions 3 and 4 always take 4096. */
  readonly pageSize: number;
  readonly osVersionField: number;
  readonly name: string;
  readonly cmdline: string;
  readonly kernel: Uint8Array;
  readonly ramdisk: Uint8Array;
  readonly second?: Uint8Array;
  readonly recoveryDtbo?: Uint8Array;
  readonly dtb?: Uint8Array;
  readonly signature?: Uint8Array;
  /** 32 bytes for versions 0 to 2 (see `computeId`). */
  readonly id?: Uint8Array;
}

const EMPTY = new Uint8Array(0);

/** Writes a boot image from its parts, every section padded to its page; no AVB data. */
export function writeBootImage(parts: BootParts): Uint8Array<ArrayBuffer> {
  const {
    version,
    kernel,
    ramdisk,
    second = EMPTY,
    recoveryDtbo = EMPTY,
    dtb = EMPTY,
    signature = EMPTY,
  } = parts;
  const modern = version >= 3;
  const pageSize = modern ? 4096 : parts.pageSize;
  const headerSize = [1632, 1648, 1660, 1580, 1584][version]!;
  const sizes = {
    kernel: kernel.length,
    ramdisk: ramdisk.length,
    second: second.length,
    recovery_dtbo: recoveryDtbo.length,
    dtb: dtb.length,
    dt: 0,
    signature: signature.length,
  };
  const { sections } = layOutSections({ pageSize, headerSize, sizes });
  const offsetOf = (name: string) => sections.find((section) => section.name === name)?.offset ?? 0;
  const out = new ByteWriter(pageSize);
  out.bytes(BOOT_MAGIC).u32le(kernel.length);
  if (modern) {
    out
      .u32le(ramdisk.length)
      .u32le(parts.osVersionField >>> 0)
      .u32le(headerSize)
      .zeros(16)
      .u32le(version)
      .ascii(parts.cmdline, 1536);
    if (version === 4) out.u32le(signature.length);
  } else {
    out
      .u32le(0x10008000)
      .u32le(ramdisk.length)
      .u32le(0x11000000)
      .u32le(second.length)
      .u32le(0x10f00000)
      .u32le(0x10000100);
    out
      .u32le(pageSize)
      .u32le(version)
      .u32le(parts.osVersionField >>> 0)
      .ascii(parts.name, 16)
      .ascii(parts.cmdline.slice(0, 512), 512);
    out.bytes(parts.id ?? new Uint8Array(32)).ascii(parts.cmdline.slice(512), 1024);
    if (version >= 1) out.u32le(recoveryDtbo.length).u64le(offsetOf('recovery_dtbo')).u32le(headerSize);
    if (version === 2) out.u32le(dtb.length).u64le(0x11f00000);
  }
  for (const bytes of [EMPTY, kernel, ramdisk, second, recoveryDtbo, dtb, signature])
    out.bytes(bytes).align(pageSize);
  return out.finish();
}

/** The same with the id that versions 0 to 2 carry, computed over its parts. */
export async function writeBootImageWithId(
  parts: BootParts,
  digests: Digests,
): Promise<Uint8Array<ArrayBuffer>> {
  const image = await readBootImage(memorySource(writeBootImage(parts)));
  return writeBootImage({
    ...parts,
    id: await computeId(image.header, (name) => sectionBytes(image, name), digests, 'all'),
  });
}
