import type { ByteSource } from '../bytes/byte-source';
import { readPieces, subSource } from '../bytes/byte-source';
import { isZero, lengthWithoutZeros } from '../bytes/bytes';
import { FOOTER_BYTES } from '../formats/avb/layout';
import type { ImageReport } from './inspect-image';

/** A stretch of an image file: every byte of it belongs to exactly one. Half-open, in bytes. */
export interface ByteRegion {
  readonly kind: 'section' | 'padding' | 'tail' | 'vbmeta' | 'footer' | 'content';
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

/** Where something else than zeros stands between two places; null where there is nothing. */
async function contentEnd(source: ByteSource, start: number, end: number): Promise<number | null> {
  let last: number | null = null;
  let at = start;
  for await (const piece of readPieces(subSource(source, start, end))) {
    if (!isZero(piece)) last = at + lengthWithoutZeros(piece);
    at += piece.length;
  }
  return last;
}

/**
 * The whole file as regions from its first byte to its last: sections, padding, what a maker left behind
 * them, verified-boot data.
 */
export async function byteRegions(source: ByteSource, report: ImageReport): Promise<ByteRegion[]> {
  const named: ByteRegion[] = report.sections.map(({ name, offset, size }) => ({
    kind: 'section',
    name,
    start: offset,
    end: offset + size,
  }));
  const footer = report.avb?.footer;
  if (footer) {
    named.push({
      kind: 'vbmeta',
      name: 'verified-boot data',
      start: footer.vbmetaOffset,
      end: footer.vbmetaOffset + footer.vbmetaSize,
    });
    named.push({ kind: 'footer', name: 'footer', start: report.size - FOOTER_BYTES, end: report.size });
  }
  named.sort((a, b) => a.start - b.start);
  const out: ByteRegion[] = [];
  let at = 0;
  for (const region of [...named, null]) {
    const gapEnd = region ? region.start : report.size;
    if (gapEnd > at) {
      const filled = await contentEnd(source, at, gapEnd);
      const kind = named.length === 0 || report.sections.length === 0 ? 'content' : 'tail';
      if (filled !== null)
        out.push({ kind, name: kind === 'tail' ? 'left by the maker' : 'content', start: at, end: filled });
      if ((filled ?? at) < gapEnd)
        out.push({ kind: 'padding', name: 'padding', start: filled ?? at, end: gapEnd });
    }
    if (!region) break;
    out.push(region);
    at = Math.max(at, region.end);
  }
  return out;
}
