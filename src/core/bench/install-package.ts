import type { ImageFacts } from '../handset/state';
import type { InstallPackage } from '../planning/context';
import { customRecovery, patchedImage, stockImage } from '../planning/context';
import type { HandsetProfile } from '../handset/state';
import type { Bench, KeptImage, OpenedPackage } from './bench';
import { rootImageBy, stockImageOf } from './root-image';

/* Install packages that are kept whole, and what each of them puts where. */

type Kept = OpenedPackage & {
  readonly report: { readonly kept: NonNullable<OpenedPackage['report']['kept']> };
};

/** Those of the shelf, the newest first. */
export const keptInstalls = ({ packages }: Pick<Bench, 'packages'>): readonly Kept[] =>
  packages.filter((one): one is Kept => one.report.kept !== undefined);

/** The one of a hash; without a hash the newest. */
export const installOf = (bench: Pick<Bench, 'packages'>, sha256: string | undefined): Kept | null =>
  keptInstalls(bench).find(({ report }) => sha256 === undefined || report.kept.sha256 === sha256) ?? null;

export interface InstallPart {
  readonly partition: string;
  readonly image: KeptImage;
}

/** Its images in the vault; one that was taken out of it since is missing. */
export const installParts = (
  { images }: Pick<Bench, 'images'>,
  { report: { kept } }: Kept,
): readonly InstallPart[] =>
  kept.images.flatMap(({ partition, sha256 }) => {
    const image = images.find((one) => one.sha256 === sha256);
    return image ? [{ partition, image }] : [];
  });

interface On {
  readonly profile: HandsetProfile;
  /** Fingerprint of the build that runs. */
  readonly build: string;
  /** The newest release that a recovery of the shelf opens, by its hash. */
  readonly opensUpTo: (sha256: string) => number;
}

/** What lies there then, as the machine sees it. */
function factsOf(
  bench: Bench,
  { partition, image }: InstallPart,
  { profile, build, opensUpTo }: On,
): ImageFacts {
  const own = { sha256: image.sha256, sizeBytes: 1 };
  if (partition === profile.recoveryHome && image.role === 'recovery')
    return {
      ...customRecovery({ profile, recovery: { name: 'it', opensUpTo: opensUpTo(image.sha256) } }, build),
      ...own,
    };
  if (partition === profile.rootPartition) {
    const by = rootImageBy(image, stockImageOf(bench, partition, build));
    if (by !== null) return { ...patchedImage({ profile, kit: image.kit }, build), ...own };
  }
  const stock = image.role === 'stock' && image.fingerprint === build;
  return {
    ...stockImage(partition, build),
    ...own,
    fingerprint: image.fingerprint,
    digestValid: stock,
  };
}

/** The package that a round installs, for the machine. */
export function installFor(bench: Bench, sha256: string | undefined, on: On): InstallPackage | null {
  const kept = installOf(bench, sha256);
  if (kept === null) return null;
  const parts = installParts(bench, kept);
  return {
    sha256: kept.report.kept.sha256,
    name: kept.fileName,
    writes: parts.map((part) => ({ partition: part.partition, image: factsOf(bench, part, on) })),
  };
}
