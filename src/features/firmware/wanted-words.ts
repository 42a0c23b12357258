import type { WantedImages } from '@/contracts/firmware-view';
import { obstacle } from './takeable';
import type { PackageImage } from '@/core/packages/package-report';

/** Of what a round wants, the images that can be taken out of a package here, and are not yet. */
export function leftToTake(
  { partitions }: WantedImages,
  images: readonly PackageImage[],
  taken: readonly { readonly partition: string }[],
): readonly PackageImage[] {
  return images.filter(
    (image) =>
      (partitions === null || partitions.includes(image.partition)) &&
      obstacle(image, false) === null &&
      !taken.some((one) => one.partition === image.partition),
  );
}

/** Of what a round wants, what no browser takes out of a package: each with why. */
export function notToTake(
  { partitions }: WantedImages,
  images: readonly PackageImage[],
): readonly { readonly partition: string; readonly why: string }[] {
  return images
    .filter(({ partition }) => partitions === null || partitions.includes(partition))
    .flatMap((image) => {
      const why = obstacle(image, false);
      return why === null ? [] : [{ partition: image.partition, why }];
    });
}

/** What a round takes out of an opened package, and what it can't, in a sentence or two. */
export function takesWords(wanted: WantedImages, images: readonly PackageImage[]): string {
  const takes = leftToTake(wanted, images, []).map(({ partition }) => partition);
  const not = notToTake(wanted, images);
  const first =
    takes.length > 0
      ? `The round on ${wanted.handset} takes ${imagesWords(takes)} from it.`
      : `The round on ${wanted.handset} needs images of this build, and none of them can be taken out here.`;
  return not.length === 0
    ? first
    : `${first} Not here: ${not.map(({ partition, why }) => `${partition} (${why})`).join(', ')}.`;
}

/** "init_boot", or "5 images". */
export const imagesWords = (partitions: readonly string[]) =>
  partitions.length > 3 ? `${partitions.length} images` : partitions.join(', ');
