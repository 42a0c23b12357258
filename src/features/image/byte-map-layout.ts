import { scaleLinear } from 'd3';
import type { ByteRegion } from '@/core/packages/byte-regions';

/** What of the file is in view; bytes, half-open. */
export interface View {
  readonly start: number;
  readonly end: number;
}

export interface Bar {
  readonly region: ByteRegion;
  /** Per cent of the width. */
  readonly left: number;
  readonly width: number;
}

const LEAST_VIEW_BYTES = 512;

/** A view of `span` bytes about a place, kept inside the file. */
export function viewAbout(centre: number, span: number, size: number): View {
  const width = Math.min(size, Math.max(LEAST_VIEW_BYTES, Math.round(span)));
  const start = Math.min(Math.max(0, Math.round(centre - width / 2)), size - width);
  return { start, end: start + width };
}

/** Zooms by a factor (under 1 goes in), the byte under `anchor` (0 to 1 of the width) staying where it is. */
export function zoomed({ start, end }: View, factor: number, anchor: number, size: number): View {
  const span = Math.min(size, Math.max(LEAST_VIEW_BYTES, (end - start) * factor));
  const at = start + (end - start) * anchor;
  return viewAbout(at + span * (0.5 - anchor), span, size);
}

export const panned = ({ start, end }: View, share: number, size: number): View =>
  viewAbout((start + end) / 2 + (end - start) * share, end - start, size);

/** Regions in view as bars; a bar is never thinner than can be seen. */
export function layOutBars(regions: readonly ByteRegion[], view: View): Bar[] {
  const x = scaleLinear([view.start, view.end], [0, 100]);
  return regions
    .filter((region) => region.end > view.start && region.start < view.end)
    .map((region) => {
      const left = Math.max(0, x(region.start));
      return { region, left, width: Math.max(0.25, Math.min(100, x(region.end)) - left) };
    });
}

/** Places for a scale under the map: round numbers of bytes, in hex where they are round there. */
export function ticks(view: View, count = 6): { readonly at: number; readonly percent: number }[] {
  const x = scaleLinear([view.start, view.end], [0, 100]);
  const rough = (view.end - view.start) / count;
  const step = 2 ** Math.ceil(Math.log2(Math.max(1, rough)));
  const out = [];
  for (let at = Math.ceil(view.start / step) * step; at <= view.end; at += step)
    out.push({ at, percent: x(at) });
  return out;
}
