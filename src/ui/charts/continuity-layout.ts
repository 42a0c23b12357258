import { scaleUtc } from 'd3';
import type { RootSpan, RootState } from '@/core/schedule/continuity';

export interface BandRect {
  readonly x: number;
  readonly width: number;
  readonly state: RootState;
  readonly from: number;
  readonly to: number;
}
export interface BandLayout {
  readonly rects: readonly BandRect[];
  readonly builds: readonly { readonly x: number; readonly buildId: string; readonly at: number }[];
  readonly begun: readonly { readonly x: number; readonly title: string; readonly at: number }[];
  readonly waitingX: number | null;
  readonly nowX: number;
  readonly months: readonly { readonly x: number; readonly at: number }[];
}

/** Short stretches stay visible: nothing narrower than this is drawn. Pixels. */
const LEAST_WIDTH = 3;

/** Spans of one state that touch are one: years of proved months need no rectangle each. */
function merged(spans: readonly RootSpan[]): RootSpan[] {
  const out: RootSpan[] = [];
  for (const span of spans) {
    const last = out.at(-1);
    if (last && last.state === span.state && last.to === span.from)
      out[out.length - 1] = { ...last, to: span.to };
    else out.push(span);
  }
  return out;
}

/** Where everything on a continuity band lies. Pure: times in UTC milliseconds, lengths in pixels. */
export function layOutBand(
  spans: readonly RootSpan[],
  builds: readonly { readonly buildId: string; readonly at: number }[],
  waitingAt: number | null,
  range: readonly [number, number],
  now: number,
  width: number,
  begun: readonly { readonly title: string; readonly at: number }[] = [],
): BandLayout {
  const scale = scaleUtc([new Date(range[0]), new Date(range[1])], [0, width]);
  const x = (at: number) => Math.max(0, Math.min(width, scale(new Date(at))));
  return {
    rects: merged(spans)
      .filter((span) => span.to > range[0] && span.from < range[1])
      .map((span) => {
        const width = Math.max(LEAST_WIDTH, x(span.to) - x(span.from));
        return { x: x(span.to) - width, width, state: span.state, from: span.from, to: span.to };
      }),
    builds: builds.filter((build) => build.at >= range[0]).map((build) => ({ x: x(build.at), ...build })),
    begun: begun.filter((round) => round.at >= range[0]).map((round) => ({ x: x(round.at), ...round })),
    waitingX: waitingAt === null || waitingAt < range[0] ? null : x(waitingAt),
    nowX: x(now),
    months: monthStarts(range).map((at) => ({ x: x(at), at })),
  };
}

/** All rectangles of one state as one path: a band of years is a handful of shapes. */
export function statePaths(
  rects: readonly BandRect[],
  top: number,
  height: number,
): { readonly state: RootState; readonly d: string }[] {
  const paths = new Map<RootState, string>();
  const round = (value: number) => Math.round(value * 100) / 100;
  for (const { state, x, width } of rects)
    paths.set(
      state,
      `${paths.get(state) ?? ''}M${round(x)} ${top}h${round(width)}v${height}h${-round(width)}z`,
    );
  return [...paths].map(([state, d]) => ({ state, d }));
}

/** Marks this near to a place count as being there. Pixels. */
const NEAR = 3;

/** What stands at a place along the band: the stretch there, and the builds and rounds beside it. */
export function bandAt({ rects, builds, begun }: BandLayout, x: number) {
  const near = <T extends { readonly x: number }>(marks: readonly T[]) =>
    marks.filter((mark) => Math.abs(mark.x - x) <= NEAR);
  return {
    span: rects.findLast((rect) => rect.x <= x && x <= rect.x + rect.width) ?? null,
    builds: near(builds),
    begun: near(begun),
  };
}

export function monthStarts([from, to]: readonly [number, number]): number[] {
  const start = new Date(from);
  const out: number[] = [];
  for (let m = 0; ; m += 1) {
    const at = Date.UTC(start.getUTCFullYear(), start.getUTCMonth() + m, 1);
    if (at > to) return out;
    if (at >= from) out.push(at);
  }
}

export const TEN_MONTHS = 10;
export const FOUR_YEARS = 48;

/** Years that begin in a range or run into it, each with the months of it that are in the range. */
export function yearStarts(
  range: readonly [number, number],
): { readonly at: number; readonly share: number }[] {
  const months = monthStarts(range).slice(0, -1);
  const years = [...new Set(months.map((at) => new Date(at).getUTCFullYear()))];
  return years.map((year) => ({
    at: Date.UTC(year, 0, 1),
    share: months.filter((at) => new Date(at).getUTCFullYear() === year).length,
  }));
}

/** So many months, to the end of this one. */
export function bandRange(now: number, months = TEN_MONTHS): [number, number] {
  const d = new Date(now);
  return [
    Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + 1 - months, 1),
    Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + 1, 1),
  ];
}
