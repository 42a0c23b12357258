import type { ByteSource } from '../bytes/byte-source';
import { startsWith, toHex } from '../bytes/bytes';
import { sha256Hex, sha256OfSource } from '../bytes/digest';
import type { Compression } from '../codecs/codec';
import { EternoError } from '../errors';
import { VBMETA_MAGIC } from '../formats/avb/layout';
import type { AvbFooter } from '../formats/avb/layout';
import type { AvbData } from '../formats/avb/reader';
import { checkDigest, checkSignature, readAvbFooter, readVbmetaImage } from '../formats/avb/reader';
import { osVersionOf, patchLevelOf } from '../formats/boot-image/layout';
import type { BootSectionName } from '../formats/boot-image/layout';
import type { BootImage } from '../formats/boot-image/reader';
import { idRuleOf, readBootImage, sectionBytes, bootPrefixOf } from '../formats/boot-image/reader';
import { isSparse } from '../formats/sparse/layout';
import { readSparse } from '../formats/sparse/reader';
import type { CpioArchive } from '../formats/cpio/cpio-archive';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, compressionOf, readRamdisk } from '../formats/cpio/ramdisk';
import type { VendorRamdiskEntry, VendorSectionName } from '../formats/vendor-boot/layout';
import { VENDOR_BOOT_MAGIC } from '../formats/vendor-boot/layout';
import type { VendorBootImage } from '../formats/vendor-boot/reader';
import { readVendorBoot, vendorRamdiskBytes } from '../formats/vendor-boot/reader';
import type { Ports } from '../ports';
import type { PatchedBy } from './provenance';
import { provenanceOf } from './provenance';

/** Everything about one image; unknown is null. Offsets are absolute, sizes in bytes without padding. */
export interface ImageReport {
  readonly kind: 'boot' | 'vendor_boot' | 'vbmeta' | 'sparse' | 'other';
  readonly size: number;
  readonly sha256: string;
  readonly headerVersion: number | null;
  readonly pageSize: number | null;
  readonly name: string | null;
  readonly cmdline: string | null;
  readonly osVersion: string | null;
  readonly patchLevel: string | null;
  readonly sections: readonly {
    name: BootSectionName | VendorSectionName;
    offset: number;
    size: number;
    sha256: string;
  }[];
  readonly kernelPresent: boolean;
  readonly idValid: boolean | null;
  readonly ramdisk: {
    compression: Compression | 'mixed';
    size: number;
    unpackedSize: number;
    archives: number;
    entries: number;
  } | null;
  readonly avb: AvbReport | null;
  readonly patchedBy: PatchedBy | null;
  /** vendor_boot only; offsets count within its ramdisk section. */
  readonly ramdisks?: readonly VendorRamdiskReport[];
}

export interface VendorRamdiskReport extends VendorRamdiskEntry {
  readonly compression: Compression | 'mixed';
  readonly archives: number;
  readonly entries: number;
}

export interface AvbReport {
  readonly algorithm: number;
  readonly rollbackIndex: number;
  readonly flags: number;
  readonly digestValid: boolean | null;
  readonly signatureValid: boolean | null;
  readonly properties: Readonly<Record<string, string>>;
  /** Null in a vbmeta image. Bytes from the start of the file. */
  readonly footer: AvbFooter | null;
  readonly release: string;
  readonly rollbackIndexLocation: number;
  /** Of the key that the block carries; null where it carries none. */
  readonly publicKeySha256: string | null;
  readonly hashes: readonly {
    partition: string;
    imageSize: number;
    algorithm: string;
    salt: string;
    digest: string;
  }[];
  readonly chains: readonly { partition: string; rollbackIndexLocation: number; publicKeySha256: string }[];
}

const MAGIC_BYTES = 8;

async function avbReport(source: ByteSource, avb: AvbData | null, ports: Ports): Promise<AvbReport | null> {
  if (!avb) return null;
  const { algorithm, rollbackIndex, rollbackIndexLocation, flags, properties, release, publicKey } =
    avb.vbmeta;
  const digestValid = await checkDigest(source, avb, ports.digests);
  const signatureValid = await checkSignature(avb.vbmeta, ports.digests);
  const chains = [];
  for (const chain of avb.vbmeta.chains)
    chains.push({
      partition: chain.partition,
      rollbackIndexLocation: chain.rollbackIndexLocation,
      publicKeySha256: await sha256Hex(ports.digests, chain.publicKey),
    });
  return {
    algorithm,
    rollbackIndex,
    flags,
    digestValid,
    signatureValid,
    properties,
    footer: avb.footer,
    release,
    rollbackIndexLocation,
    publicKeySha256: publicKey.length > 0 ? await sha256Hex(ports.digests, publicKey) : null,
    hashes: avb.vbmeta.hashes.map(({ salt, digest, ...rest }) => ({
      ...rest,
      salt: toHex(salt),
      digest: toHex(digest),
    })),
    chains,
  };
}

async function bootReport(image: BootImage, avb: AvbReport | null, ports: Ports): Promise<ExaminedImage> {
  const { source, header } = image;
  const packed = await sectionBytes(image, 'ramdisk');
  const ramdisk = packed.length > 0 ? await readRamdisk(packed, ports.codecs) : null;
  const archives = ramdisk ? archivesOf(ramdisk) : [];
  const report: ImageReport = {
    kind: 'boot',
    size: source.size,
    sha256: await sha256OfSource(ports.digests, source),
    headerVersion: header.version,
    pageSize: header.pageSize,
    name: header.name,
    cmdline: header.cmdline,
    osVersion: osVersionOf(header.osVersionField),
    patchLevel: patchLevelOf(header.osVersionField),
    sections: await hashSections(source, image.sections, ports),
    kernelPresent: header.sizes.kernel > 0,
    idValid: header.id ? (await idRuleOf(image, ports.digests)) !== null : null,
    ramdisk: ramdisk && {
      compression: compressionOf(ramdisk),
      size: packed.length,
      unpackedSize: ramdisk.streams.reduce((sum, stream) => sum + stream.unpackedSize, 0),
      archives: archives.length,
      entries: countEntries(archives),
    },
    avb,
    patchedBy: provenanceOf(archives),
  };
  return { report, ramdisks: ramdisk ? [ramdisk] : [] };
}

async function vendorReport(
  image: VendorBootImage,
  ports: Ports,
): Promise<{ readonly report: Omit<ImageReport, 'avb'>; readonly ramdisks: readonly Ramdisk[] }> {
  const { source, header } = image;
  const ramdisks: VendorRamdiskReport[] = [];
  const read: Ramdisk[] = [];
  for (const entry of image.ramdisks) {
    if (entry.size === 0) {
      ramdisks.push({ ...entry, compression: 'none', archives: 0, entries: 0 });
      continue;
    }
    const ramdisk = await readRamdisk(await vendorRamdiskBytes(image, entry), ports.codecs);
    const archives = archivesOf(ramdisk);
    read.push(ramdisk);
    ramdisks.push({
      ...entry,
      compression: compressionOf(ramdisk),
      archives: archives.length,
      entries: countEntries(archives),
    });
  }
  const report = {
    kind: 'vendor_boot' as const,
    size: source.size,
    sha256: await sha256OfSource(ports.digests, source),
    headerVersion: header.version,
    pageSize: header.pageSize,
    name: header.name,
    cmdline: header.cmdline,
    osVersion: null,
    patchLevel: null,
    sections: await hashSections(source, image.sections, ports),
    kernelPresent: false,
    idValid: null,
    ramdisk: null,
    patchedBy: null,
    ramdisks,
  };
  return { report, ramdisks: read };
}

async function hashSections<S extends { readonly offset: number; readonly size: number }>(
  source: ByteSource,
  sections: readonly S[],
  ports: Ports,
): Promise<(S & { sha256: string })[]> {
  const hashed = [];
  for (const section of sections) {
    hashed.push({
      ...section,
      sha256: await sha256Hex(
        ports.digests,
        await source.read(section.offset, section.offset + section.size),
      ),
    });
  }
  return hashed;
}

const countEntries = (archives: readonly CpioArchive[]) =>
  archives.reduce((sum, archive) => sum + archive.entries.length, 0);

/**
 * Reads everything about one image.
 * @throws {EternoError} `truncated` (also an empty file), `bad-magic` where nothing is known, and all of the
 * readers
 */
export async function inspectImage(source: ByteSource, ports: Ports): Promise<ImageReport> {
  return (await examineImage(source, ports)).report;
}

/** An image's report, and its ramdisks as they were read for it. */
export interface ExaminedImage {
  readonly report: ImageReport;
  readonly ramdisks: readonly Ramdisk[];
}

const EMPTY = {
  headerVersion: null,
  pageSize: null,
  name: null,
  cmdline: null,
  osVersion: null,
  patchLevel: null,
  sections: [],
  kernelPresent: false,
  idValid: null,
  ramdisk: null,
  patchedBy: null,
};

/** The report of a container that nobody here can read: a bootloader or radio, carried whole by its hash. */
export const containerReport = (size: number, sha256: string): ImageReport => ({
  ...EMPTY,
  kind: 'other',
  size,
  sha256,
  avb: null,
});

/** The same with the ramdisks, for those who go on with them. */
export async function examineImage(source: ByteSource, ports: Ports): Promise<ExaminedImage> {
  if (source.size === 0)
    throw new EternoError('truncated', 'the file is empty', { file: source.name, offset: 0 });
  const head = await source.read(0, Math.min(source.size, MAGIC_BYTES));
  if (startsWith(head, VENDOR_BOOT_MAGIC)) {
    const image = await readVendorBoot(source);
    const { report, ramdisks } = await vendorReport(image, ports);
    return {
      report: { ...EMPTY, ...report, avb: await avbReport(source, await readAvbFooter(source), ports) },
      ramdisks,
    };
  }
  if ((await bootPrefixOf(source)) !== null) {
    const image = await readBootImage(source);
    return bootReport(image, await avbReport(source, await readAvbFooter(source), ports), ports);
  }
  if (isSparse(head)) {
    await readSparse(source);
    const report: ImageReport = {
      ...EMPTY,
      kind: 'sparse',
      size: source.size,
      sha256: await sha256OfSource(ports.digests, source),
      avb: null,
    };
    return { report, ramdisks: [] };
  }
  const isVbmeta = startsWith(head, VBMETA_MAGIC);
  const avb = isVbmeta ? await readVbmetaImage(source) : await readAvbFooter(source);
  if (!avb)
    throw new EternoError('bad-magic', 'nothing known: neither an image nor verified-boot data', {
      file: source.name,
      offset: 0,
    });
  const report: ImageReport = {
    ...EMPTY,
    kind: isVbmeta ? 'vbmeta' : 'other',
    size: source.size,
    sha256: await sha256OfSource(ports.digests, source),
    avb: await avbReport(source, avb, ports),
  };
  return { report, ramdisks: [] };
}
