import { EternoError } from '../errors';
import type { ZipArchive, ZipEntry } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import type { Ports, Watch } from '../ports';
import type { ImageMember, MemberFindings } from './member-package';
import { buildOfMembers, memberPackage } from './member-package';
import type { PackageFile } from './package-files';
import { baseName, filesOfZip, findFile, readTextFile } from './package-files';
import type { OpenedPackage, PackageBuild } from './package-report';
import { mergeBuilds } from './package-report';

/* Image ZIPs and the factory ZIPs around them (docs/formats.md, "Packages"). */

const INFO_NAME = 'android-info.txt';
const INNER_NAME = /(^|\/)image-[^/]*\.zip$/i;
const IMAGE_NAME = /\.img$/i;

/** What a handset must be before the images go on it: lines `require key=a|b`. */
export function parseRequirements(
  text: string,
): Pick<PackageBuild, 'devices' | 'requiredBootloader' | 'requiredBaseband'> {
  const found: Record<string, string[]> = {};
  for (const line of text.split(/[\r\n]+/)) {
    const match = /^\s*require\s+([A-Za-z0-9_-]+)\s*=(.*)$/.exec(line);
    if (!match) continue;
    const values = match[2]!.trim().split('|');
    (found[match[1]!] ??= []).push(...values.filter((value) => value !== ''));
  }
  return {
    devices: found['board'] ?? found['product'] ?? [],
    requiredBootloader: found['version-bootloader'] ?? [],
    requiredBaseband: found['version-baseband'] ?? [],
  };
}

export function imageMembers(
  files: readonly PackageFile[],
  partitionOf: (file: PackageFile) => string | null,
): ImageMember[] {
  return files.flatMap((file) => {
    const partition = partitionOf(file);
    if (partition === null) return [];
    return [
      {
        partition,
        name: file.name,
        size: file.size,
        packedBytes: file.size,
        crc32: file.crc32,
        slots: null,
        hashStated: false,
        open: ({ signal }: Watch) => file.open(signal),
      },
    ];
  });
}

/** `init_boot` of `images/init_boot.img`; null for other files. */
export function partitionOfName(name: string): string | null {
  const base = baseName(name);
  const partition = base.replace(IMAGE_NAME, '');
  return IMAGE_NAME.test(base) && /^[A-Za-z0-9_-]{1,63}$/.test(partition) ? partition : null;
}

async function describeImages(
  files: readonly PackageFile[],
  ports: Ports,
  watch: Watch,
): Promise<{ members: ImageMember[] } & Omit<MemberFindings, 'kind'>> {
  const members = imageMembers(files, (file) => partitionOfName(file.name));
  const info = findFile(files, files.find((file) => baseName(file.name) === INFO_NAME)?.name ?? INFO_NAME);
  const required = info ? parseRequirements(await readTextFile(info)) : null;
  const spoken = await buildOfMembers(members, ports, watch);
  const evidence = [`holds ${members.length} images as files`];
  if (required) evidence.push(`${INFO_NAME} states what the handset must be`);
  if (spoken) evidence.push(`${spoken.from} names the build in its verified-boot data`);
  const warnings = [];
  if (!info) warnings.push(`no ${INFO_NAME}: nothing states which handset the images are for`);
  if (!spoken?.build.fingerprint) warnings.push('no image in it names the build');
  return { members, evidence, warnings, build: mergeBuilds(spoken?.build ?? {}, required ?? {}) };
}

export const looksLikeImages = (files: readonly PackageFile[]) =>
  files.some((file) => partitionOfName(file.name) !== null);

export async function openImageFiles(
  files: readonly PackageFile[],
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const { members, ...findings } = await describeImages(files, ports, watch);
  return memberPackage(members, { ...findings, kind: 'image-zip' }, ports);
}

/** The inner archive of a factory ZIP, or null. @throws {EternoError} `duplicate` */
export function innerImageZip(archive: ZipArchive): ZipEntry | null {
  const found = archive.entries.filter((entry) => !entry.directory && INNER_NAME.test(entry.name));
  if (found.length > 1)
    throw new EternoError(
      'duplicate',
      `the package holds ${found.length} inner archives of images: ${found.map((entry) => entry.name).join(', ')}`,
    );
  return found[0] ? findEntry(archive, found[0].name) : null;
}

/** A factory ZIP: the images in an archive of its own, stored or deflated; bootloader and radio beside it. */
export async function openFactoryZip(
  archive: ZipArchive,
  inner: ZipEntry,
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const { source } = await archive.openEntry(inner, watch.signal);
  const files = filesOfZip(await ports.openZip(source, watch.signal)).map((file) => ({
    ...file,
    name: `${inner.name}/${file.name}`,
  }));
  const opened = await describeImages(files, ports, watch);
  // a deflated inner archive has been unpacked to get here; a stored one is checked with what is taken from
  // it, entry by entry
  const beside = imageMembers(
    filesOfZip(archive),
    (file) => /(?:^|\/)(bootloader|radio)-[^/]*\.img$/i.exec(file.name)?.[1]?.toLowerCase() ?? null,
  );
  const evidence = [
    `holds ${inner.name}, ${inner.method === 'stored' ? 'stored, so it is read in place' : 'deflated, so it is unpacked to be read'}: a factory package`,
    ...opened.evidence,
    ...beside.map((member) => `${member.name} stands beside it`),
  ];
  return memberPackage([...opened.members, ...beside], { ...opened, evidence, kind: 'factory-zip' }, ports);
}
