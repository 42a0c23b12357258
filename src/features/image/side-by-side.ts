/** A run of lines that both sides have, or only one. */
export interface LineRun {
  readonly value: string;
  readonly added?: boolean;
  readonly removed?: boolean;
}

export interface SideRow {
  readonly same: boolean;
  readonly a: string | null;
  readonly b: string | null;
}

/** Lines of a stretch of unchanged text that are kept around a change. */
const AROUND = 3;

const linesOf = (text: string) => text.replace(/\n$/, '').split('\n');

/** Runs of lines as rows with a left and a right side; long unchanged stretches shrink to their edges. */
export function sideBySide(runs: readonly LineRun[]): SideRow[] {
  const rows: SideRow[] = [];
  runs.forEach((run, i) => {
    const lines = linesOf(run.value);
    if (run.removed) {
      const next = runs[i + 1];
      const replaced = next?.added ? linesOf(next.value) : [];
      for (let k = 0; k < Math.max(lines.length, replaced.length); k += 1)
        rows.push({ same: false, a: lines[k] ?? null, b: replaced[k] ?? null });
      return;
    }
    if (run.added) {
      if (!runs[i - 1]?.removed) for (const line of lines) rows.push({ same: false, a: null, b: line });
      return;
    }
    const same = (line: string): SideRow => ({ same: true, a: line, b: line });
    if (lines.length <= 2 * AROUND + 1) rows.push(...lines.map(same));
    else {
      if (i > 0) rows.push(...lines.slice(0, AROUND).map(same));
      rows.push(same(`… ${lines.length - 2 * AROUND} lines the same …`));
      if (i < runs.length - 1) rows.push(...lines.slice(-AROUND).map(same));
    }
  });
  return rows;
}
