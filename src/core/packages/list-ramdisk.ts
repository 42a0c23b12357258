import type { ByteSource } from '../bytes/byte-source';
import { toHex } from '../bytes/bytes';
import { sha256Hex } from '../bytes/digest';
import type { Compression } from '../codecs/codec';
import { EternoError } from '../errors';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import type { CpioEntry } from '../formats/cpio/cpio-archive';
import { nameOf } from '../formats/cpio/cpio-archive';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { isVendorBoot, readVendorBoot, vendorRamdiskBytes } from '../formats/vendor-boot/reader';
import type { Ports } from '../ports';

export interface EntryReport {
  readonly name: string;
  readonly nameHex: string;
  /** Octal, with the type bits. */
  readonly mode: string;
  readonly ino: number;
  readonly nlink: number;
  readonly uid: number;
  readonly gid: number;
  readonly mtime: number;
  readonly rdev: readonly [number, number];
  readonly size: number;
  readonly sha256: string;
}

export interface RamdiskReport {
  readonly archives: readonly { compression: Compression; entries: readonly EntryReport[] }[];
}

/**
 * The ramdisks of a boot or vendor_boot image, in the order they are unpacked.
 * @throws {EternoError} `unsupported` where the image has none
 */
async function readImageRamdisks(source: ByteSource, ports: Ports): Promise<Ramdisk[]> {
  const packed = await packedRamdisks(source);
  if (packed.length === 0)
    throw new EternoError('unsupported', 'the image has no ramdisk', { file: source.name });
  const ramdisks: Ramdisk[] = [];
  for (const bytes of packed) ramdisks.push(await readRamdisk(bytes, ports.codecs));
  return ramdisks;
}

async function packedRamdisks(source: ByteSource): Promise<Uint8Array[]> {
  if (await isVendorBoot(source)) {
    const image = await readVendorBoot(source);
    return Promise.all(
      image.ramdisks.filter(({ size }) => size > 0).map((entry) => vendorRamdiskBytes(image, entry)),
    );
  }
  const packed = await sectionBytes(await readBootImage(source), 'ramdisk');
  return packed.length > 0 ? [packed] : [];
}

export async function describeEntry(entry: CpioEntry, ports: Pick<Ports, 'digests'>): Promise<EntryReport> {
  const { mode, ino, nlink, uid, gid, mtime, rdevmajor, rdevminor } = entry.fields;
  return {
    name: nameOf(entry),
    nameHex: toHex(entry.name),
    mode: mode.toString(8),
    ino,
    nlink,
    uid,
    gid,
    mtime,
    rdev: [rdevmajor, rdevminor],
    size: entry.data.length,
    sha256: await sha256Hex(ports.digests, entry.data),
  };
}

/** Lists a ramdisk's entries archive by archive, trailers left out. */
export async function listRamdisk(source: ByteSource, ports: Ports): Promise<RamdiskReport> {
  return describeRamdisks(await readImageRamdisks(source, ports), ports);
}

export async function describeRamdisks(
  ramdisks: readonly Ramdisk[],
  ports: Pick<Ports, 'digests'>,
): Promise<RamdiskReport> {
  const archives = [];
  for (const stream of ramdisks.flatMap((ramdisk) => ramdisk.streams)) {
    for (const { archive } of stream.archives) {
      const entries = [];
      for (const entry of archive.entries) entries.push(await describeEntry(entry, ports));
      archives.push({ compression: stream.compression, entries });
    }
  }
  return { archives };
}

/** The bytes of the entry in force under a name. @throws {EternoError} `not-found` */
export async function readRamdiskFile(source: ByteSource, path: string, ports: Ports): Promise<Uint8Array> {
  const found = (await readImageRamdisks(source, ports))
    .flatMap(archivesOf)
    .flatMap((archive) => archive.entries)
    .filter((entry) => nameOf(entry) === path)
    .at(-1);
  if (!found) throw new EternoError('not-found', `the ramdisk has no entry "${path}"`, { file: source.name });
  return found.data;
}
