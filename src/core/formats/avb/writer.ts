import { alignUp } from '../../bytes/bytes';
import type { Digests } from '../../bytes/digest';
import { digestBytes } from '../../bytes/digest';
import { EternoError } from '../../errors';
import { FOOTER_BYTES, footerBytes, vbmetaBytes } from './layout';

export interface FooterParts {
  readonly partition: string;
  readonly partitionBytes: number;
  readonly salt: Uint8Array;
  readonly rollbackIndex: number;
  readonly release: string;
  readonly properties: Readonly<Record<string, string>>;
}

/**
 * An image grown to its partition's size, with an unsigned vbmeta block (one SHA-256 hash descriptor,
 * properties) and a footer.
 * @throws {EternoError} `does-not-fit`
 */
export async function appendAvbFooter(
  image: Uint8Array,
  parts: FooterParts,
  digests: Digests,
): Promise<Uint8Array<ArrayBuffer>> {
  const { partition, partitionBytes, salt, rollbackIndex, release, properties } = parts;
  const digest = await digestBytes(digests, 'sha256', salt, image);
  const vbmeta = vbmetaBytes({
    rollbackIndex,
    release,
    properties,
    hash: { partition, imageSize: image.length, algorithm: 'sha256', salt, digest },
  });
  const vbmetaOffset = alignUp(image.length, 4096);
  const over = vbmetaOffset + vbmeta.length + FOOTER_BYTES - partitionBytes;
  if (over > 0) throw new EternoError('does-not-fit', `the image is ${over} bytes too long for ${partition}`);
  const out = new Uint8Array(partitionBytes);
  out.set(image);
  out.set(vbmeta, vbmetaOffset);
  out.set(
    footerBytes({ originalImageSize: image.length, vbmetaOffset, vbmetaSize: vbmeta.length }),
    partitionBytes - FOOTER_BYTES,
  );
  return out;
}
