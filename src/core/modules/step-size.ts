/* How large the step from one build to the next is (docs/method.md, "Modules"). */

export type StepSize = 'same' | 'monthly' | 'quarterly' | 'major';

export interface StepBuild {
  readonly release: string | null;
  /** YYYY-MM-DD. */
  readonly patchLevel: string | null;
}

/** Months in which the platform itself moves on between releases. */
const QUARTERS = [3, 6, 9, 12];

const monthOf = (level: string | null): number | null => {
  const match = level === null ? null : /^(\d{4})-(\d{2})/.exec(level);
  return match ? Number(match[1]) * 12 + Number(match[2]) - 1 : null;
};

/**
 * The largest step between two builds, whichever is the older; a level that is not known counts as a quarter.
 */
export function stepSize(from: StepBuild, to: StepBuild): StepSize {
  if (from.release !== null && to.release !== null && from.release !== to.release) return 'major';
  const [a, b] = [monthOf(from.patchLevel), monthOf(to.patchLevel)];
  if (a === null || b === null) return 'quarterly';
  if (a === b) return 'same';
  for (let month = Math.min(a, b) + 1; month <= Math.max(a, b); month += 1)
    if (QUARTERS.includes((month % 12) + 1)) return 'quarterly';
  return 'monthly';
}
