import type { PackageImage } from '@/core/packages/package-report';

const TAKEABLE_BYTES = 512 * 1024 * 1024;

/** Why an image can't be taken out here with others; null where it can. */
export function obstacle(image: PackageImage, foreign: boolean): string | null {
  if (foreign) return 'for none of your handsets';
  if (image.unsupported.length > 0) return `can’t be made here: ${image.unsupported.join(', ')}`;
  if (image.needsSource) return 'made from the old image, above';
  return (image.size ?? 0) > TAKEABLE_BYTES ? 'too large for the browser: use the command' : null;
}
