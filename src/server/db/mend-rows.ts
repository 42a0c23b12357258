import 'server-only';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import type { BackupRow, BackupTable } from './backup-tables';
import { isBackupTable, keyOf } from './backup-tables';
import { database, inTransaction } from './connection';
import { dataDir } from './data-dir';
import { misshapen, SHAPED_TABLES } from './row-shapes';

/** What a row goes on with where it has to stay, because others hang on it. */
const HARMLESS: Readonly<Partial<Record<BackupTable, Readonly<Record<string, string>>>>> = {
  rounds: { plan: '{}', overrides: '[]' },
  steps: { evidence: '[]', about: '{}' },
};

interface SetAside {
  readonly table: BackupTable;
  readonly column: string;
  readonly row: BackupRow;
}

/** Rows in which no room could show a column. */
async function badRows(): Promise<SetAside[]> {
  const { sequelize } = await database();
  const found: SetAside[] = [];
  for (const table of SHAPED_TABLES.filter(isBackupTable)) {
    const rows = await sequelize.query<BackupRow>(`SELECT * FROM "${table}"`, { type: QueryTypes.SELECT });
    for (const row of rows) {
      const column = misshapen(table, row);
      if (column !== null) found.push({ table, column, row });
    }
  }
  return found;
}

/**
 * Sets aside what would keep rooms from showing: such rows go into a file in the data folder, whole, and out
 * of the store; what others hang on stays with an empty value in the place. Nothing is lost, and the log says
 * how many there were.
 * @returns the file's name, or null where every row is as it should be
 */
export async function mendRows(at: number): Promise<{ readonly file: string; readonly rows: number } | null> {
  const bad = await badRows();
  if (bad.length === 0) return null;
  const file = `set-aside-${new Date(at).toISOString().replace(/[:.]/g, '-')}.json`;
  await writeFile(
    join(/*turbopackIgnore: true*/ dataDir(), file),
    JSON.stringify({ version: 1, at, rows: bad }, null, 1),
    {
      flag: 'wx',
      mode: 0o600,
    },
  );
  const { sequelize } = await database();
  await inTransaction(async (transaction) => {
    for (const { table, column, row } of bad) {
      const key = keyOf(table);
      const instead = HARMLESS[table]?.[column];
      if (instead !== undefined)
        await sequelize.query(`UPDATE "${table}" SET "${column}" = ? WHERE "${key}" = ?`, {
          replacements: [instead, row[key]],
          transaction,
        });
      else
        await sequelize.query(`DELETE FROM "${table}" WHERE "${key}" = ?`, {
          replacements: [row[key]],
          transaction,
        });
    }
  });
  // a row may hold more than one such column
  const more = bad.some(({ table }) => HARMLESS[table] !== undefined) ? await badRows() : [];
  if (more.length > 0) {
    const next = await mendRows(at + 1);
    return { file, rows: bad.length + (next?.rows ?? 0) };
  }
  return { file, rows: bad.length };
}
