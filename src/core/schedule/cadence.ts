/*
 * When the next build is to be expected, from when those before it came out (docs/method.md, "Calendar").
 * Times in UTC milliseconds.
 */

const DAY_MS = 86_400_000;

export interface Cadence {
  /** Days between two builds, the middle one of them; null with fewer than two builds. */
  readonly days: number | null;
  /** Four of five gaps lie between; days. */
  readonly between: readonly [number, number] | null;
  /**
   * When the next is most likely out, and the stretch it probably falls into; null where nothing can be said.
   */
  readonly next: { readonly at: number; readonly from: number; readonly to: number } | null;
  /** Days from out to installed, the middle one; null where none was followed. */
  readonly followDays: number | null;
}

function quantile(sorted: readonly number[], p: number): number {
  const at = (sorted.length - 1) * p;
  const low = Math.floor(at);
  return sorted[low]! + (sorted[Math.min(low + 1, sorted.length - 1)]! - sorted[low]!) * (at - low);
}
const sorted = (values: readonly number[]) => [...values].sort((a, b) => a - b);

/** With one gap alone the spread is taken as a quarter of it: a stated guess. */
const LONE_SPREAD = 0.25;

/**
 * @param published when each build came out, in any order
 * @param followed days from out to installed, for those that were installed here
 */
export function cadenceOf(published: readonly number[], followed: readonly number[], now: number): Cadence {
  const times = sorted(published.filter((at) => at <= now));
  const gaps = sorted(times.slice(1).map((at, i) => (at - times[i]!) / DAY_MS)).filter((gap) => gap > 0);
  const followDays = followed.length === 0 ? null : quantile(sorted(followed), 0.5);
  const last = times.at(-1);
  if (last === undefined || gaps.length === 0) return { days: null, between: null, next: null, followDays };
  const days = quantile(gaps, 0.5);
  const between: [number, number] =
    gaps.length === 1
      ? [days * (1 - LONE_SPREAD), days * (1 + LONE_SPREAD)]
      : [quantile(gaps, 0.1), quantile(gaps, 0.9)];
  const on = (gap: number) => last + gap * DAY_MS;
  // what is overdue is expected any day, and no longer when it should have come
  const late = Math.max(0, now - on(days));
  return {
    days,
    between,
    next: {
      at: on(days) + late,
      from: Math.max(now, on(between[0])),
      to: Math.max(on(between[1]), on(days) + late),
    },
    followDays,
  };
}
