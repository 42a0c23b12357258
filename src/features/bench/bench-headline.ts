import type { BenchRow } from '@/contracts/handset-view';
import { listNames } from '@/ui/format';

const count = (n: number) =>
  ['no', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine'][n] ?? String(n);

/**
 * This month on the bench in two short sentences: who lost root, who has an update out, who has nothing to
 * do.
 */
export function benchHeadline(rows: readonly BenchRow[], month: string): readonly string[] {
  const lost = rows.filter((row) => row.root === 'lost' || row.root === 'broken');
  const waiting = rows.filter((row) => row.waiting !== null);
  const lines: string[] = [];
  if (lost.length > 0)
    lines.push(`${listNames(lost.map((row) => row.name))} ${lost.length === 1 ? 'is' : 'are'} without root.`);
  if (waiting.length > 0)
    lines.push(
      rows.length === 1
        ? `A newer build is out for ${waiting[0]!.name}.`
        : `A newer build is out for ${count(waiting.length)} of your ${count(rows.length)} handsets.`,
    );
  if (lines.length === 0) lines.push(`${month}: every handset is on the newest build known.`);
  return lines;
}

const RANK: Readonly<Record<BenchRow['root'], number>> = {
  broken: 0,
  lost: 1,
  unproven: 2,
  unknown: 3,
  proven: 4,
  stock: 5,
};

/** An update that is out and waits for nothing but the person. */
const open = ({ next, waits }: BenchRow) => next.daysBehind > 0 && waits === null;

/** What needs the person first. */
export function sortedRows(rows: readonly BenchRow[]): BenchRow[] {
  return [...rows].sort(
    (a, b) =>
      Number(b.next.urgent) - Number(a.next.urgent) ||
      RANK[a.root] - RANK[b.root] ||
      Number(open(b)) - Number(open(a)),
  );
}
