import { sha256Hex } from '../bytes/digest';
import type { Ports } from '../ports';

/*
 * Which image a partition holds. A partition may be larger than its image: then only the part that the image
 * fills is compared, and what lies behind it counts for nothing (docs/method.md, "Read-back").
 */

export interface SizedImage {
  readonly sha256: string;
  readonly sizeBytes: number;
}

/**
 * The hash by which a partition's content is known: of one of these images where it begins with exactly that
 * one, else of all of it.
 * @param bytes the whole partition as it was read
 */
export async function heldImage(
  bytes: Uint8Array,
  images: readonly SizedImage[],
  digests: Ports['digests'],
): Promise<string> {
  const whole = await sha256Hex(digests, bytes);
  if (images.some(({ sha256 }) => sha256 === whole)) return whole;
  const sizes = [...new Set(images.map(({ sizeBytes }) => sizeBytes))]
    .filter((size) => size > 0 && size < bytes.length)
    .sort((a, b) => b - a);
  for (const size of sizes) {
    const own = await sha256Hex(digests, bytes.subarray(0, size));
    if (images.some(({ sha256, sizeBytes }) => sizeBytes === size && sha256 === own)) return own;
  }
  return whole;
}
