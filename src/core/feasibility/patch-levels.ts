import type { DataSays } from '../words/floors';

/*
 * "Will my data open?": image, system and data patch levels on one line (docs/method.md, "Will the data
 * open").
 */

export interface PatchLevels {
  /** Of the image that is to be written; `yyyy-mm` or `yyyy-mm-dd`. */
  readonly image: string | null;
  readonly system: string | null;
  /** Of the newest build that has run since the last wipe: its keys may be bound to it. */
  readonly data: string | null;
  readonly encrypted: boolean | null;
}

export interface DataVerdict {
  readonly verdict: 'opens' | 'may not open' | "can't tell";
  readonly says: DataSays;
}

/** Months since year 0; null where the text is no patch level. */
export function monthOf(level: string | null): number | null {
  const match = level === null ? null : /^(\d{4})-(\d{2})/.exec(level);
  return match ? Number(match[1]) * 12 + Number(match[2]) : null;
}

export function willDataOpen({ image, system, data, encrypted }: PatchLevels): DataVerdict {
  if (encrypted === false) return { verdict: 'opens', says: { code: 'not-encrypted' } };
  const [i, s, d] = [monthOf(image), monthOf(system), monthOf(data)];
  if (i === null || s === null) {
    const whose = (['image', 'system'] as const).filter((one) => (one === 'image' ? i : s) === null);
    return { verdict: "can't tell", says: { code: 'level-unknown', whose } };
  }
  if (d !== null && Math.min(i, s) < d) {
    const which = i < d && s < d ? 'both' : i < d ? 'image' : 'system';
    return { verdict: 'may not open', says: { code: 'older-than-data', which, data: data! } };
  }
  if (i !== s)
    return { verdict: 'may not open', says: { code: 'months-differ', image: image!, system: system! } };
  if (d === null) return { verdict: "can't tell", says: { code: 'never-opened' } };
  return { verdict: 'opens', says: { code: 'one-month' } };
}
