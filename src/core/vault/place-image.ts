import type { PackageImage, PackageReport } from '../packages/package-report';

/*
 * What an image that came into the vault is: by its own bytes, and by the packages that the server opened
 * itself. What its sender says of it counts for nothing (docs/method.md, "What may be written where").
 */

/** A package, and who read it: by the word of a page nothing is known. */
export interface ReadPackage {
  readonly report: PackageReport;
  readonly readBy: 'server' | 'page';
}

/** An image by its bytes; unknown is null. */
export interface ImageBytes {
  readonly sha256: string;
  readonly sizeBytes: number;
  /** Of all its bytes, eight digits in hex; asked only where a package states one for a file of this size. */
  readonly crc32: () => Promise<string>;
  readonly partition: string | null;
  /** The builds that it names. */
  readonly fingerprints: readonly string[];
  readonly patchLevel: string | null;
  /** Whether its own verified-boot data holds. */
  readonly digestValid: boolean | null;
}

export interface PlacedImage {
  /** Null where neither its bytes nor a package say it. */
  readonly partition: string | null;
  readonly role: 'stock' | 'unknown';
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
}

type Stated = PackageImage & { readonly fingerprint: string | null; readonly level: string | null };

const statedIn = (packages: readonly ReadPackage[]): Stated[] =>
  packages
    .filter(({ readBy }) => readBy === 'server')
    .flatMap(({ report }) =>
      report.images.map((image) => ({
        ...image,
        fingerprint: report.build.fingerprint,
        level: report.build.patchLevel,
      })),
    );

/** The images of packages that have these very bytes. */
async function sameBytes(image: ImageBytes, stated: readonly Stated[]): Promise<Stated[]> {
  const byHash = stated.filter(({ sha256 }) => sha256 === image.sha256);
  if (byHash.length > 0) return byHash;
  const bySize = stated.filter(
    ({ sha256, crc32, size }) => sha256 === null && typeof crc32 === 'string' && size === image.sizeBytes,
  );
  if (bySize.length === 0) return [];
  const own = await image.crc32();
  return bySize.filter(({ crc32 }) => crc32 === own);
}

/**
 * Stock is what an opened package states for a partition, else an image whose own digest holds, that names its
 * build, and that no package of that build contradicts. An image that names no build is of the build of the
 * package that holds its bytes.
 * @param wanted the partition that its sender means, where several have the same bytes
 */
export async function placeImage(
  image: ImageBytes,
  packages: readonly ReadPackage[],
  wanted: string | null,
): Promise<PlacedImage> {
  const stated = statedIn(packages);
  const same = await sameBytes(image, stated);
  const own = image.fingerprints[0] ?? null;
  const first = (name: string | null) => same.find(({ partition }) => name !== null && partition === name);
  const match = first(wanted) ?? first(image.partition) ?? same[0];
  if (match)
    return {
      partition: match.partition,
      role: 'stock',
      fingerprint: own ?? match.fingerprint,
      patchLevel: image.patchLevel ?? match.level,
    };
  const contradicted = stated.some(
    ({ partition, sha256, fingerprint }) =>
      partition === image.partition && sha256 !== null && fingerprint !== null && fingerprint === own,
  );
  const speaksForItself = !contradicted && own !== null && image.digestValid === true;
  return {
    partition: image.partition,
    role: speaksForItself && image.fingerprints.length === 1 ? 'stock' : 'unknown',
    fingerprint: own,
    patchLevel: image.patchLevel,
  };
}
