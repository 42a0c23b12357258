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

/** "init_boot", or "5 images". */
export const imagesWords = (partitions: readonly string[]) =>
  partitions.length > 3 ? `${partitions.length} images` : partitions.join(', ');
