import type { PackageContent, PackageImage } from './package-report';

/** More files than this are counted, not listed. */
const MOST_LISTED = 5000;

export interface ListedFile {
  readonly name: string;
  readonly size: number;
  readonly crc32?: number;
}

/**
 * A package's files with the images in their places; images without a file of their own stand under `inside`.
 */
export function contentsOf(
  files: readonly ListedFile[],
  images: readonly PackageImage[],
  inside = 'payload.bin',
): PackageContent[] {
  const byMember = new Map(
    images.filter((image) => image.member !== null).map((image) => [image.member, image]),
  );
  const listed = files.slice(0, MOST_LISTED).map(({ name, size, crc32 }): PackageContent => {
    const image = byMember.get(name);
    byMember.delete(name);
    return {
      path: name,
      size,
      sha256: image?.sha256 ?? null,
      crc32: crc32 ?? null,
      partition: image?.partition ?? null,
    };
  });
  const nested = [...byMember.values(), ...images.filter((image) => image.member === null)].map(
    (image): PackageContent => ({
      path: image.member ?? `${inside}/${image.partition}`,
      size: image.size,
      sha256: image.sha256,
      crc32: null,
      partition: image.partition,
    }),
  );
  return [...listed, ...nested];
}
