import type { ByteSource } from '../bytes/byte-source';
import { subSource } from '../bytes/byte-source';
import { sha256OfSource } from '../bytes/digest';
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
 * What a partition's content is known by: one of these images where it begins with exactly that one, else all
 * of it.
 * @param partition all of it, as it was read
 * @throws {EternoError} `cancelled`
 */
export async function heldImage(
  partition: ByteSource,
  images: readonly SizedImage[],
  digests: Ports['digests'],
  signal?: AbortSignal,
): Promise<SizedImage> {
  const sha256 = await sha256OfSource(digests, partition, signal);
  const whole = { sha256, sizeBytes: partition.size };
  if (images.some((image) => image.sha256 === sha256)) return whole;
  const sizes = [...new Set(images.map(({ sizeBytes }) => sizeBytes))]
    .filter((size) => size > 0 && size < partition.size)
    .sort((a, b) => b - a);
  for (const size of sizes) {
    const own = await sha256OfSource(digests, subSource(partition, 0, size, partition.name), signal);
    if (images.some((image) => image.sizeBytes === size && image.sha256 === own))
      return { sha256: own, sizeBytes: size };
  }
  return whole;
}
