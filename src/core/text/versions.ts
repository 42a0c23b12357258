/** Runs of digits and of letters; what stands between them only separates. */
const partsOf = (version: string): string[] => version.toLowerCase().match(/\d+|[a-z]+/g) ?? [];

/**
 * Two versions of one line, part by part: digits as numbers, and a longer one is newer than its beginning.
 * @returns below 0 where `a` is older, 0 where they are the same, above 0 where it is newer; null where their
 *   words differ, for then they are of two lines
 */
export function compareVersions(a: string, b: string): number | null {
  const [left, right] = [partsOf(a), partsOf(b)];
  if (left.length === 0 || right.length === 0) return null;
  for (let i = 0; i < Math.min(left.length, right.length); i += 1) {
    const [x, y] = [left[i]!, right[i]!];
    const [isX, isY] = [/^\d/.test(x), /^\d/.test(y)];
    if (!isX || !isY) {
      if (x !== y) return null;
      continue;
    }
    const order = BigInt(x) - BigInt(y);
    if (order !== 0n) return order < 0n ? -1 : 1;
  }
  return left.length - right.length;
}

/** Whether a version is older than the least that is asked for, or can't be held against it. */
export function fallsShort(has: string, least: string | null): boolean {
  if (least === null) return false;
  const order = compareVersions(has, least);
  return order === null || order < 0;
}
