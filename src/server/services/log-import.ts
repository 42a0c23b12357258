import 'server-only';
import type { LogImport } from '@/contracts/log-view';
import { boundedJson } from '@/core/bounded-json';
import { EternoError } from '@/core/errors';
import type { BackupRow, BackupTable } from '../db/backup-tables';
import { againstStore, checkRow, insertRows } from '../db/backup-tables';
import { appendEvent } from '../repositories/event-repository';
import { now } from './clock';
import { LOG_FORMAT, LOG_TABLES, LOG_VERSION } from './log-export';

/* A log of Eterno's own on its way back in: whole, or not at all. */

export const LOG_BYTES = 128 * 1024 * 1024;
const SHOWN_CONFLICTS = 50;
/** Rows of all tables of a log, and the few lists that hold them. */
const MOST_ROWS = 1_000_000;

/** @throws {EternoError} `bad-magic` for what is no log, `unsupported` for a newer one, `bad-field` */
function parseLog(bytes: Uint8Array): ReadonlyMap<BackupTable, readonly BackupRow[]> {
  let told: { format?: unknown; formatVersion?: unknown; tables?: unknown };
  try {
    told = boundedJson(bytes, { depth: 4, structures: MOST_ROWS }) as typeof told;
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code === 'too-large') throw thrown;
    throw new EternoError('bad-magic', 'This is no log of Eterno: it cannot be read as JSON.', {
      cause: thrown,
    });
  }
  if (typeof told !== 'object' || told === null || told.format !== LOG_FORMAT)
    throw new EternoError('bad-magic', 'This is no log of Eterno.');
  if (told.formatVersion !== LOG_VERSION)
    throw new EternoError('unsupported', 'This log was written by a newer Eterno.');
  if (typeof told.tables !== 'object' || told.tables === null)
    throw new EternoError('bad-field', 'This log has no tables.');
  const tables = new Map<BackupTable, readonly BackupRow[]>();
  for (const [name, rows] of Object.entries(told.tables)) {
    const table = [...LOG_TABLES, 'secrets' as const].find((one) => one === name);
    if (!table)
      throw new EternoError(
        'unsupported',
        `This log has a table “${name.slice(0, 40)}” that is not known here.`,
      );
    if (!Array.isArray(rows)) throw new EternoError('bad-field', `The table ${table} is no list of rows.`);
    tables.set(
      table,
      rows.map((row: unknown, i) => checkRow(table, row, i)),
    );
  }
  return tables;
}

const settled = (row: BackupRow): BackupRow =>
  row['state'] === 'running' ? { ...row, state: 'interrupted' } : row;

/**
 * What a log would bring in, and what is here already and says something else; with `apply` it is brought in,
 * in one transaction. What is here stays as it is.
 * @throws {EternoError} `bad-magic`, `unsupported`, `bad-field`, `duplicate`; nothing is changed then
 */
export async function importLog(bytes: Uint8Array, apply: boolean): Promise<LogImport> {
  const tables = parseLog(bytes);
  const fresh = new Map<BackupTable, readonly BackupRow[]>();
  const said: LogImport['tables'][number][] = [];
  const conflicts: LogImport['conflicts'][number][] = [];
  for (const [table, rows] of tables) {
    const against = await againstStore(table, rows);
    fresh.set(table, against.fresh.map(settled));
    said.push({ name: table, rows: rows.length, fresh: against.fresh.length, differing: against.differing });
    for (const { key, columns } of against.conflicts) conflicts.push({ table, key, columns });
  }
  if (apply) {
    await insertRows(fresh);
    await appendEvent({
      at: now(),
      handsetId: null,
      roundId: null,
      kind: 'log-imported',
      data: { version: 1, tables: said },
    });
  }
  return {
    applied: apply,
    tables: said,
    conflicts: conflicts.slice(0, SHOWN_CONFLICTS),
    moreConflicts: Math.max(0, conflicts.length - SHOWN_CONFLICTS),
  };
}
