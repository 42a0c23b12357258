import { scalePoint } from 'd3';
import { monthOf } from '@/core/feasibility/patch-levels';

export interface LevelMark {
  readonly label: string;
  readonly level: string;
  readonly x: number;
}

/**
 * Where image, system and data stand on a line of months; marks of one month share their place, their labels
 * joined.
 */
export function levelMarks(
  levels: readonly (readonly [string, string | null])[],
  width: number,
): { marks: LevelMark[]; months: { label: string; x: number }[] } {
  const known = levels.flatMap(([label, level]) => {
    const month = monthOf(level);
    return month === null ? [] : [{ label, level: level!, month }];
  });
  if (known.length === 0) return { marks: [], months: [] };
  const least = Math.min(...known.map((one) => one.month)) - 1;
  const most = Math.max(...known.map((one) => one.month)) + 1;
  const months = Array.from({ length: most - least + 1 }, (_, i) => least + i);
  const x = scalePoint<number>().domain(months).range([0, width]).padding(0.4);
  const byMonth = new Map<number, typeof known>();
  for (const one of known) byMonth.set(one.month, [...(byMonth.get(one.month) ?? []), one]);
  return {
    marks: [...byMonth].map(([month, ones]) => ({
      label: ones.map((one) => one.label).join(' and '),
      level: ones[0]!.level,
      x: x(month)!,
    })),
    months: months.map((month) => ({
      label: `${Math.floor((month - 1) / 12)}-${String(((month - 1) % 12) + 1).padStart(2, '0')}`,
      x: x(month)!,
    })),
  };
}
