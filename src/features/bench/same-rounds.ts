import type { BenchRow } from '@/contracts/handset-view';

export interface SameRounds {
  readonly model: string;
  readonly buildId: string;
  readonly rows: readonly BenchRow[];
  /** Rounds of theirs that are open. */
  readonly open: number;
}

/** Handsets of one model that wait for the same build, two of them or more. */
export function sameRounds(rows: readonly BenchRow[]): readonly SameRounds[] {
  const groups = new Map<string, BenchRow[]>();
  for (const row of rows) {
    if (!row.waiting) continue;
    const key = `${row.model}\n${row.waiting.buildId}`;
    groups.set(key, [...(groups.get(key) ?? []), row]);
  }
  return [...groups.values()]
    .filter((group) => group.length > 1)
    .map((group) => ({
      model: group[0]!.model,
      buildId: group[0]!.waiting!.buildId,
      rows: group,
      open: group.filter((row) => row.roundId !== null).length,
    }));
}
