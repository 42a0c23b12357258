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

/** The ramdisk of a boot image. @throws {EternoError} `unsupported` where the image has none */
export async function readImageRamdisk(source: ByteSource, ports: Ports): Promise<Ramdisk> {
  const packed = await sectionBytes(await readBootImage(source), 'ramdisk');
  if (packed.length === 0) throw new EternoError('unsupported', 'the image has no ramdisk', { file: source.name });
  return readRamdisk(packed, ports.codecs);
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
  const ramdisk = await readImageRamdisk(source, ports);
  const archives = [];
  for (const stream of ramdisk.streams) {
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
  const ramdisk = await readImageRamdisk(source, ports);
  const found = archivesOf(ramdisk)
    .flatMap((archive) => archive.entries)
    .filter((entry) => nameOf(entry) === path)
    .at(-1);
  if (!found) throw new EternoError('not-found', `the ramdisk has no entry "${path}"`, { file: source.name });
  return found.data;
}
