import { scaleBand } from 'd3';
import type { Matrix, MatrixCell, MatrixRow } from '@/contracts/module-view';
import type { ModuleOutcome } from '@/core/modules/chance';

/* Where everything of the matrix lies. Pure; lengths in pixels. */

export interface MatrixFilter {
  readonly text: string;
  /** Builds of one product only; null for all. */
  readonly product: string | null;
  /** Rows in which something broke. */
  readonly trouble: boolean;
}

export interface PlacedCell extends MatrixCell {
  readonly x: number;
  readonly row: string;
  readonly build: string;
}
export interface PlacedRow {
  readonly row: MatrixRow;
  readonly y: number;
  readonly cells: readonly PlacedCell[];
}
export interface MatrixLayout {
  readonly width: number;
  readonly height: number;
  readonly cell: number;
  readonly columns: readonly { readonly fingerprint: string; readonly buildId: string; readonly x: number }[];
  readonly rows: readonly PlacedRow[];
}

const NAMES = 190;
const HEAD = 104;
const MOST_CELL = 34;
const LEAST_CELL = 17;
const ROW = 22;
/** Room for the last label, which leans out to the right. */
const LEAN = 66;

const broke = ({ cells }: MatrixRow) => Object.values(cells).some(({ outcome }) => outcome !== 'worked');

/**
 * The newest builds that fit are shown; rows without a trial on any of them stay, so that what was never
 * tried is seen.
 */
export function layOutMatrix(
  { columns, rows }: Matrix,
  { text, product, trouble }: MatrixFilter,
  width: number,
): MatrixLayout {
  const wanted = text.trim().toLowerCase();
  const own = columns.filter((column) => product === null || column.product === product);
  const fits = Math.max(1, Math.floor((width - NAMES - LEAN) / LEAST_CELL));
  const shown = own.slice(-fits);
  const kept = rows.filter(
    (row) => (wanted === '' || row.name.toLowerCase().includes(wanted)) && (!trouble || broke(row)),
  );
  const cell = Math.min(MOST_CELL, Math.max(LEAST_CELL, (width - NAMES - LEAN) / Math.max(1, shown.length)));
  const scale = scaleBand(
    shown.map(({ fingerprint }) => fingerprint),
    [NAMES, NAMES + cell * shown.length],
  );
  return {
    width: NAMES + cell * shown.length + LEAN,
    height: HEAD + kept.length * ROW + 6,
    cell,
    columns: shown.map(({ fingerprint, buildId }) => ({
      fingerprint,
      buildId,
      x: scale(fingerprint)! + cell / 2,
    })),
    rows: kept.map((row, i) => ({
      row,
      y: HEAD + i * ROW + ROW / 2,
      cells: shown.flatMap(({ fingerprint, buildId }) => {
        const held = row.cells[fingerprint];
        return held ? [{ ...held, x: scale(fingerprint)! + cell / 2, row: row.name, build: buildId }] : [];
      }),
    })),
  };
}

export const OUTCOME_WORDS: Readonly<Record<ModuleOutcome, string>> = {
  worked: 'worked',
  looped: 'looped',
  misbehaved: 'misbehaved',
};
