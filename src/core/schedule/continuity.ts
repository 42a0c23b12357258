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

/** Share of the time in which root was there, 0 to 1; null where nothing is known. */
export function shareWithRoot(spans: readonly RootSpan[]): number | null {
  const total = spans.reduce((sum, span) => sum + span.to - span.from, 0);
  const held = spans.filter((span) => span.state === 'proven' || span.state === 'unproven').reduce((sum, span) => sum + span.to - span.from, 0);
  return total === 0 ? null : held / total;
}
