import 'server-only';
import type { ModelAttributeColumnOptions } from 'sequelize';
import { DataTypes } from 'sequelize';
import { EternoError } from '@/core/errors';
import { database, inTransaction } from './connection';
import type { Models } from './models';
import { COLUMNS } from './columns';
import { misshapen } from './row-shapes';

type TableName = keyof typeof COLUMNS;
export type BackupRow = Readonly<Record<string, string | number | null>>;

/** Tables of a backup, parents before children. Jobs are of the moment and stay. */
export const BACKUP_TABLES = [
  'handsets',
  'secrets',
  'facts',
  'fact_choices',
  'builds',
  'packages',
  'images',
  'image_origins',
  'slot_contents',
  'kits',
  'recoveries',
  'trials',
  'backups',
  'clocks',
  'dependencies',
  'downgrade_edges',
  'model_ways',
  'modules',
  'module_trials',
  'rounds',
  'steps',
  'step_notes',
  'put_backs',
  'calendar_entries',
  'settings',
  'events',
] as const satisfies readonly TableName[];
export type BackupTable = (typeof BACKUP_TABLES)[number];
export const isBackupTable = (name: string): name is BackupTable =>
  (BACKUP_TABLES as readonly string[]).includes(name);

const MODEL_OF: Readonly<Record<BackupTable, keyof Models>> = {
  handsets: 'Handset',
  secrets: 'Secret',
  facts: 'Fact',
  fact_choices: 'FactChoice',
  builds: 'Build',
  packages: 'Package',
  images: 'Image',
  image_origins: 'ImageOrigin',
  slot_contents: 'SlotContent',
  kits: 'Kit',
  recoveries: 'Recovery',
  trials: 'Trial',
  backups: 'Backup',
  clocks: 'Clock',
  dependencies: 'Dependency',
  downgrade_edges: 'DowngradeEdge',
  model_ways: 'ModelWay',
  modules: 'Module',
  module_trials: 'ModuleTrial',
  step_notes: 'StepNote',
  calendar_entries: 'CalendarEntry',
  rounds: 'Round',
  steps: 'Step',
  put_backs: 'PutBack',
  settings: 'Setting',
  events: 'Event',
};

const columnsOf = (table: BackupTable) =>
  Object.entries(COLUMNS[table] as Record<string, ModelAttributeColumnOptions>);
export const keyOf = (table: BackupTable) => columnsOf(table).find(([, column]) => column.primaryKey)![0];

/** Every row of a table as plain values, in the order of its key. */
export async function dumpTable(table: BackupTable): Promise<BackupRow[]> {
  const { sequelize } = await database();
  const [rows] = await sequelize.query(`SELECT * FROM "${table}" ORDER BY "${keyOf(table)}"`);
  return (rows as BackupRow[]).map(withoutNul);
}

/** A character that SQLite and JSON take and a later insert does not: stores of before could keep it. */
const withoutNul = (row: BackupRow): BackupRow =>
  Object.fromEntries(
    Object.entries(row).map(([name, cell]) => [
      name,
      typeof cell === 'string' ? cell.replaceAll('\0', '\ufffd') : cell,
    ]),
  );

/**
 * A row as a backup may bring it: known columns only, each of its kind; a column that came later has its
 * default or is empty.
 * @throws {EternoError} `bad-field`
 */
export function checkRow(table: BackupTable, value: unknown, index: number): BackupRow {
  const bad = (what: string) =>
    new EternoError('bad-field', `row ${index + 1} of ${table}: ${what}`, { file: `tables/${table}.json` });
  if (typeof value !== 'object' || value === null || Array.isArray(value)) throw bad('is no row');
  const row = value as Record<string, unknown>;
  const columns = columnsOf(table);
  const unknown = Object.keys(row).find((name) => !columns.some(([column]) => column === name));
  if (unknown !== undefined) throw bad(`has a column “${unknown.slice(0, 40)}” that is not known`);
  const checked = Object.fromEntries(
    columns.map(([name, column]): [string, string | number | null] => {
      const cell = row[name] ?? column.defaultValue ?? null;
      if (cell === null) {
        if (column.allowNull === false || column.primaryKey) throw bad(`${name} is missing`);
        return [name, null];
      }
      const fits =
        column.type === DataTypes.TEXT
          ? typeof cell === 'string'
          : typeof cell === 'number' && Number.isSafeInteger(cell);
      if (!fits) throw bad(`${name} is of the wrong kind`);
      return [name, cell as string | number];
    }),
  );
  const clean = withoutNul(checked);
  const wrong = misshapen(table, clean);
  if (wrong !== null) throw bad(`${wrong} holds nothing that can be shown`);
  return clean;
}

/**
 * What a row is known by: its key, and for the log, whose numbers each machine gives anew, all that it says.
 */
function identity(table: BackupTable, row: BackupRow): string {
  if (table !== 'events') return String(row[keyOf(table)]);
  return JSON.stringify([row.at, row.handsetId, row.roundId, row.kind, row.data]);
}

export interface RowsAgainstStore {
  readonly fresh: readonly BackupRow[];
  /** Here already, and not the same: the ones here stay. */
  readonly differing: number;
  /** Those of them in words: which row, and which columns differ. */
  readonly conflicts: readonly { readonly key: string; readonly columns: readonly string[] }[];
}

export async function againstStore(
  table: BackupTable,
  rows: readonly BackupRow[],
): Promise<RowsAgainstStore> {
  const own = new Map((await dumpTable(table)).map((row) => [identity(table, row), row]));
  const fresh: BackupRow[] = [];
  const seen = new Set<string>();
  const conflicts: { key: string; columns: string[] }[] = [];
  for (const row of rows) {
    const id = identity(table, row);
    if (seen.has(id))
      throw new EternoError('duplicate', `${table} holds one row twice`, { file: `tables/${table}.json` });
    seen.add(id);
    const known = own.get(id);
    if (!known) fresh.push(row);
    else if (table !== 'events') {
      const columns = columnsOf(table)
        .map(([name]) => name)
        .filter((name) => (known[name] ?? null) !== (row[name] ?? null));
      if (columns.length > 0) conflicts.push({ key: id, columns });
    }
  }
  return { fresh, differing: conflicts.length, conflicts };
}

const BATCH = 500;

/**
 * Puts the rows in, all or none.
 * @throws {EternoError} `bad-field` where a row speaks of something that is not there
 */
export async function insertRows(rowsOf: ReadonlyMap<BackupTable, readonly BackupRow[]>): Promise<void> {
  try {
    await inTransaction(async (transaction, models) => {
      for (const table of BACKUP_TABLES) {
        const rows = rowsOf.get(table) ?? [];
        const model = models[MODEL_OF[table]] as unknown as {
          bulkCreate(rows: object[], options: object): Promise<unknown>;
        };
        for (let at = 0; at < rows.length; at += BATCH) {
          const batch = rows
            .slice(at, at + BATCH)
            .map((row) => (table === 'events' ? { ...row, id: undefined } : row));
          await model.bulkCreate(batch, { transaction });
        }
      }
    });
  } catch (thrown) {
    throw new EternoError(
      'bad-field',
      'a row of the backup speaks of something that is not in it; nothing was restored',
      { cause: thrown },
    );
  }
}
