import type { Ports, Watch } from '../ports';
import { imageMembers, partitionOfName } from './image-zip';
import { buildOfMembers, memberPackage } from './member-package';
import type { PackageFile } from './package-files';
import { baseName } from './package-files';
import type { OpenedPackage } from './package-report';
import { mergeBuilds } from './package-report';
import { readUpdateMetadata } from './update-metadata';

/*
 * Block update ZIPs (docs/formats.md, "Packages"): large partitions as transfer lists with their data, small
 * ones as plain images.
 */

const LIST_NAME = /\.transfer\.list$/i;

/** Partitions that come as a transfer list with data. */
export function transferredPartitions(files: readonly PackageFile[]): string[] {
  return files
    .filter((file) => LIST_NAME.test(file.name))
    .map((file) => baseName(file.name).replace(LIST_NAME, ''))
    .filter((name) => files.some((file) => baseName(file.name).startsWith(`${name}.new.dat`)));
}

export async function openBlockUpdate(
  files: readonly PackageFile[],
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const lists = transferredPartitions(files);
  const members = imageMembers(files, (file) => partitionOfName(file.name));
  const stated = await readUpdateMetadata(files);
  const spoken = await buildOfMembers(members, ports, watch);
  const evidence = [`${lists.join(', ')} as transfer lists with their data: a block update package`];
  const [byMetadata, byImage] = [stated?.fingerprint ?? null, spoken?.build.fingerprint ?? null];
  if (byMetadata) evidence.push('its metadata names the build');
  if (byImage) evidence.push(`${spoken!.from} names the build in its verified-boot data`);
  const warnings = buildWarnings(byMetadata, byImage, spoken?.from ?? '');
  const opened = memberPackage(
    members,
    { kind: 'block-update-zip', evidence, warnings, build: mergeBuilds(spoken?.build ?? {}, stated ?? {}) },
    ports,
  );
  return {
    ...opened,
    report: { ...opened.report, incremental: (stated?.sourceFingerprint ?? null) !== null },
  };
}

/** @param from the image that names its build */
function buildWarnings(byMetadata: string | null, byImage: string | null, from: string): string[] {
  if (!byMetadata && !byImage) return ['nothing in it names the build'];
  return byMetadata && byImage && byMetadata !== byImage
    ? [`the metadata speaks of ${byMetadata}, ${from} of ${byImage}`]
    : [];
}
