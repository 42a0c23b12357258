/* How long a step takes: a stated prior, and what the person's own log says (docs/method.md, "Durations"). */

/** The prior counts as so many steps of one's own. */
const PRIOR_STEPS = 3;

/**
 * Expected and slow minutes of a step after so many of one's own.
 * @param prior expected and slow, minutes
 * @param seconds how long each took, the newest anywhere
 */
export function learnPace(
  [expected, slow]: readonly [number, number],
  seconds: readonly number[],
): readonly [number, number] {
  const own = seconds.filter((one) => one >= 0).map((one) => one / 60);
  if (own.length === 0) return [expected, slow];
  const mean = (expected * PRIOR_STEPS + own.reduce((sum, one) => sum + one, 0)) / (PRIOR_STEPS + own.length);
  const sorted = [...own].sort((a, b) => a - b);
  const high = sorted[Math.min(sorted.length - 1, Math.floor(0.9 * sorted.length))]!;
  const late = (slow * PRIOR_STEPS + high * own.length) / (PRIOR_STEPS + own.length);
  return [mean, Math.max(mean, late)];
}
