import type { ByteSource } from '../bytes/byte-source';
import { alignUp, lengthWithoutZeros } from '../bytes/bytes';
import { EternoError } from '../errors';
import { FOOTER_BYTES, footerBytes } from '../formats/avb/layout';
import type { AvbData } from '../formats/avb/reader';
import type { SigningKey } from '../formats/avb/rewrite';
import { renewVbmeta } from '../formats/avb/rewrite';
import type { Ports } from '../ports';

/*
 * An image's file around its sections: what a maker put behind the last one, verified-boot data and its footer,
 * and the stock file's length (docs/formats.md, "Patch kit").
 */

/** An image as far as its sections go. */
export interface Sectioned {
  readonly source: ByteSource;
  /** End of the last section's own bytes, and the next page after it. */
  readonly end: number;
  readonly alignedEnd: number;
}

/**
 * Bytes behind the last section that belong to nobody we know: a maker's marker, kept right behind the last
 * section.
 */
export interface Tail {
  readonly bytes: Uint8Array;
  /** Whether it begins at the next page after the last section, or right at the section's own end. */
  readonly paged: boolean;
}

/**
 * What stands between the last section and the AVB data, or, without a footer, the last byte that is not
 * zero.
 */
export async function readTail(image: Sectioned, avb: AvbData | null): Promise<Tail> {
  const { source, end, alignedEnd } = image;
  const limit = avb?.footer ? avb.footer.originalImageSize : source.size;
  if (limit <= end) return { bytes: new Uint8Array(0), paged: true };
  const gap = await source.read(end, limit);
  const inPage = Math.min(gap.length, alignedEnd - end);
  const paged = lengthWithoutZeros(gap.subarray(0, inPage)) === 0;
  const bytes = paged ? gap.subarray(inPage) : gap;
  return { bytes: avb?.footer ? bytes : bytes.subarray(0, lengthWithoutZeros(bytes)), paged };
}

export interface RebuiltImage {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly notes: readonly string[];
}

/**
 * What becomes of verified-boot data behind the image: carried as it was, brought up to date unsigned, or
 * signed with the person's key.
 */
export type AvbChoice =
  | { readonly mode: 'carry' }
  | { readonly mode: 'rehash' }
  | { readonly mode: 'sign'; readonly key: SigningKey };

export interface RebuildOptions {
  /** Default `carry`. */
  readonly avb?: AvbChoice;
  /** Where the stock file carries no footer and more room is needed; bytes. */
  readonly partitionSize?: number;
}

/**
 * The file with new sections in it; everything behind them carried along.
 * @param stock the image that it is made from
 * @param ends where its new sections end
 * @param draw puts header and sections into the new file
 * @throws {EternoError} `does-not-fit` with the bytes over, `unsupported` where there is no verified-boot data to
 *   bring up to date
 */
export async function placeContent(
  stock: Sectioned,
  avb: AvbData | null,
  ends: Pick<Sectioned, 'end' | 'alignedEnd'>,
  draw: (out: Uint8Array) => Promise<void>,
  ports: Ports,
  options: RebuildOptions = {},
): Promise<RebuiltImage> {
  const { source } = stock;
  const tail = await readTail(stock, avb);
  const contentEnd = contentEndOf(ends, tail, avb);
  const choice = options.avb ?? { mode: 'carry' };
  if (choice.mode !== 'carry' && !avb?.footer)
    throw new EternoError(
      'unsupported',
      'the image carries no verified-boot data of its own that could be brought up to date',
      { file: source.name },
    );
  // the block's length does not depend on the image, so its place is known before its digest is
  const draft = avb?.footer ? await vbmetaFor(avb, new Uint8Array(0), choice, ports) : null;
  const out = new Uint8Array(sizeOf(source.size, draft, contentEnd, options));
  await draw(out);
  if (tail.bytes.length > 0) out.set(tail.bytes, contentEnd - tail.bytes.length);
  if (!avb?.footer) return { bytes: out, notes: [] };
  await setFooter(out, contentEnd, avb, choice, ports);
  return { bytes: out, notes: [AVB_NOTES[choice.mode]] };
}

/** Where the last section and what stands behind it end. */
function contentEndOf(
  { end, alignedEnd }: Pick<Sectioned, 'end' | 'alignedEnd'>,
  tail: Tail,
  avb: AvbData | null,
): number {
  if (tail.bytes.length > 0) return (tail.paged ? alignedEnd : end) + tail.bytes.length;
  return avb?.footer ? alignedEnd : end;
}

/** Sets verified-boot block and footer behind the content. */
async function setFooter(
  out: Uint8Array,
  contentEnd: number,
  avb: AvbData,
  choice: AvbChoice,
  ports: Ports,
): Promise<void> {
  const vbmetaOffset = alignUp(contentEnd, 4096);
  const blob = await vbmetaFor(avb, out.subarray(0, contentEnd), choice, ports);
  out.set(blob, vbmetaOffset);
  out.set(
    footerBytes({ originalImageSize: contentEnd, vbmetaOffset, vbmetaSize: blob.length }),
    out.length - FOOTER_BYTES,
  );
}

const AVB_NOTES: Readonly<Record<AvbChoice['mode'], string>> = {
  carry:
    'verified-boot data is left as it was; its digest is the stock image’s, which an unlocked bootloader does not check',
  rehash:
    'the digest in the image is brought up to date and unsigned; a descriptor of this partition in the main vbmeta still has the stock image’s digest',
  sign: 'the digest in the image is brought up to date and signed with your key; a locked bootloader takes it only where that key is enrolled, and a descriptor in the main vbmeta still has the stock image’s digest',
};

async function vbmetaFor(
  avb: AvbData,
  image: Uint8Array,
  choice: AvbChoice,
  { digests }: Ports,
): Promise<Uint8Array> {
  if (choice.mode === 'carry') return avb.blob;
  return renewVbmeta(avb, image, digests, choice.mode === 'sign' ? choice.key : null);
}

/** @param vbmeta the block behind the image, or null where there is none */
function sizeOf(
  stockSize: number,
  vbmeta: Uint8Array | null,
  contentEnd: number,
  { partitionSize }: RebuildOptions,
): number {
  if (vbmeta) {
    const over = alignUp(contentEnd, 4096) + vbmeta.length + FOOTER_BYTES - stockSize;
    if (over > 0) throw doesNotFit(over, stockSize);
    return stockSize;
  }
  if (contentEnd <= stockSize) return stockSize;
  if (partitionSize === undefined) throw doesNotFit(contentEnd - stockSize, stockSize);
  if (contentEnd > partitionSize) throw doesNotFit(contentEnd - partitionSize, partitionSize);
  return contentEnd;
}

function doesNotFit(over: number, room: number): EternoError {
  return new EternoError(
    'does-not-fit',
    `the patched image is ${over} bytes longer than the ${room} bytes there are; a smaller kit or a known larger partition are the ways out`,
    {
      details: { bytesOver: over, room },
    },
  );
}
