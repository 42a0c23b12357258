/** What is known of a handset's root at a time: the state marks of the whole product. */
export type RootState = 'proven' | 'unproven' | 'stock' | 'lost' | 'broken' | 'unknown';

export interface RootChange {
  /** UTC milliseconds. */
  readonly at: number;
  readonly state: RootState;
}

export interface RootSpan {
  readonly from: number;
  readonly to: number;
  readonly state: RootState;
}

/** The spans between changes, from the first change to `until`. */
export function rootSpans(changes: readonly RootChange[], until: number): RootSpan[] {
  const sorted = [...changes].sort((a, b) => a.at - b.at);
  return sorted.flatMap((change, i) => {
    const to = Math.min(until, sorted[i + 1]?.at ?? until);
    return to > change.at ? [{ from: change.at, to, state: change.state }] : [];
  });
}

const held = ({ state }: RootSpan) => state === 'proven' || state === 'unproven';

/** Share of the time in which root was there, 0 to 1; null where nothing is known. */
export function shareWithRoot(spans: readonly RootSpan[]): number | null {
  const total = spans.reduce((sum, span) => sum + span.to - span.from, 0);
  const rooted = spans.filter(held).reduce((sum, span) => sum + span.to - span.from, 0);
  return total === 0 ? null : rooted / total;
}

/** The longest time with root at one go, in milliseconds; spans that touch count as one. */
export function longestRun(spans: readonly RootSpan[]): number {
  let [longest, began, ended] = [0, 0, Number.NEGATIVE_INFINITY];
  for (const span of [...spans].sort((a, b) => a.from - b.from).filter(held)) {
    if (span.from !== ended) began = span.from;
    ended = span.to;
    longest = Math.max(longest, ended - began);
  }
  return longest;
}

const MINUTE_MS = 60_000;

/** Minutes within a stretch in which root was gone: lost or broken. What was never rooted is not missed. */
export function minutesWithoutRoot(spans: readonly RootSpan[], from: number, to: number): number {
  return (
    spans
      .filter(({ state }) => state === 'lost' || state === 'broken')
      .reduce((sum, span) => sum + Math.max(0, Math.min(to, span.to) - Math.max(from, span.from)), 0) /
    MINUTE_MS
  );
}
