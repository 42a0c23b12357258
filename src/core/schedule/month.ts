/* A month as weeks of days, Monday first. Times in UTC milliseconds. */

const DAY_MS = 86_400_000;

export interface MonthDay {
  /** Its midnight. */
  readonly at: number;
  readonly day: number;
  /** Whether it is of this month, or only fills the week. */
  readonly inside: boolean;
}

/** `2026-11`; null for anything else. */
export function parseMonth(text: string | undefined): number | null {
  const match = text === undefined ? null : /^(\d{4})-(0[1-9]|1[0-2])$/.exec(text);
  return match ? Date.UTC(Number(match[1]), Number(match[2]) - 1, 1) : null;
}
export const monthText = (at: number) => new Date(at).toISOString().slice(0, 7);
export const monthStart = (at: number) =>
  Date.UTC(new Date(at).getUTCFullYear(), new Date(at).getUTCMonth(), 1);
export const nextMonth = (at: number, by: 1 | -1) =>
  Date.UTC(new Date(at).getUTCFullYear(), new Date(at).getUTCMonth() + by, 1);

/** Whole weeks that hold the month. */
export function weeksOf(month: number): readonly (readonly MonthDay[])[] {
  const start = monthStart(month);
  const first = start - ((new Date(start).getUTCDay() + 6) % 7) * DAY_MS;
  const weeks: MonthDay[][] = [];
  for (let at = first; at < nextMonth(start, 1); at += 7 * DAY_MS)
    weeks.push(
      Array.from({ length: 7 }, (_one, i) => {
        const day = new Date(at + i * DAY_MS);
        return { at: day.getTime(), day: day.getUTCDate(), inside: monthStart(day.getTime()) === start };
      }),
    );
  return weeks;
}
