import 'server-only';
import { chmod, mkdir } from 'node:fs/promises';
import { AsyncLocalStorage } from 'node:async_hooks';
import type { QueryOptions } from 'sequelize';
import { QueryTypes, Sequelize, Transaction } from 'sequelize';
import { EternoError } from '@/core/errors';
import { dataDir, databasePath } from './data-dir';
import { defineModels } from './models';
import type { Models } from './models';

export interface Database {
  readonly sequelize: Sequelize;
  readonly models: Models;
}

interface Within {
  readonly transaction: Transaction;
  readonly models: Models;
}

const held = globalThis as {
  eternoDatabase?: Promise<Database>;
  eternoWriting?: Promise<unknown>;
  eternoWithin?: AsyncLocalStorage<Within>;
};
/** The transaction that the current work is part of. */
const within = (held.eternoWithin ??= new AsyncLocalStorage<Within>());

// what is read in a transaction sees what was written in it
(Sequelize as unknown as { useCLS(namespace: object): void }).useCLS({
  run: (work: (context: object) => unknown) => work({}),
  bind: <T>(work: T): T => work,
  get: (key: string) => (key === 'transaction' ? within.getStore()?.transaction : undefined),
  set: () => undefined,
});

async function open(): Promise<Database> {
  await mkdir(/*turbopackIgnore: true*/ dataDir(), { recursive: true, mode: 0o700 });
  const sequelize = new Sequelize({
    dialect: 'sqlite',
    storage: databasePath(),
    logging: false,
    pool: { max: 1, min: 1, idle: 60_000 },
    // a transaction has a connection of its own, and another process may write too: what is locked is asked
    // again for a while
    retry: { match: [/SQLITE_BUSY/], max: 20, backoffBase: 20, backoffExponent: 1.5 },
    // a transaction that begins by reading would fail at its first write if another process wrote meanwhile
    transactionType: Transaction.TYPES.IMMEDIATE,
  });
  writeInTurn(sequelize);
  await sequelize.query('PRAGMA journal_mode = WAL').catch(unreadable);
  await sequelize.query('PRAGMA busy_timeout = 10000');
  await sequelize.query('PRAGMA foreign_keys = ON');
  await keepToOneself();
  return { sequelize, models: defineModels(sequelize) };
}

/**
 * SQLite lets one write at a time, and whoever finds it locked looks again ever more seldom: under load a
 * single statement waited for many seconds while transactions passed it. So all that this process writes
 * takes turns.
 */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = (held.eternoWriting ?? Promise.resolve()).then(work);
  held.eternoWriting = mine.catch(() => undefined);
  return mine;
}

const WRITES: ReadonlySet<string | undefined> = new Set<string>([
  QueryTypes.INSERT,
  QueryTypes.UPDATE,
  QueryTypes.DELETE,
  QueryTypes.UPSERT,
  QueryTypes.BULKUPDATE,
  QueryTypes.BULKDELETE,
]);

/** A statement that writes by itself waits for its turn; one in a transaction has it. */
function writeInTurn(sequelize: Sequelize): void {
  const query = sequelize.query.bind(sequelize) as (sql: unknown, options?: QueryOptions) => Promise<unknown>;
  const turned = (sql: unknown, options?: QueryOptions) =>
    WRITES.has(options?.type) && !options?.transaction && !within.getStore()
      ? inTurn(() => query(sql, options))
      : query(sql, options);
  sequelize.query = turned as typeof sequelize.query;
}

/**
 * The folder and the database are for their owner alone: they hold serials, tokens and codes. A system
 * without such rights goes on without.
 */
async function keepToOneself(): Promise<void> {
  await chmod(/*turbopackIgnore: true*/ dataDir(), 0o700).catch(() => undefined);
  for (const ending of ['', '-wal', '-shm'])
    await chmod(/*turbopackIgnore: true*/ `${databasePath()}${ending}`, 0o600).catch(() => undefined);
}

/**
 * @throws {EternoError} `corrupt` for a file that is no database or a damaged one, `io` for one that can't be
 * opened
 */
export function unreadable(thrown: unknown): never {
  const text = thrown instanceof Error ? thrown.message : String(thrown);
  if (/NOTADB|CORRUPT|malformed|not a database/.test(text))
    throw new EternoError(
      'corrupt',
      `The database ${databasePath()} is damaged. Put a copy of it back (beside it lie those of before each update), or restore a backup into an empty folder.`,
      { cause: thrown },
    );
  if (/CANTOPEN|READONLY|EACCES/.test(text))
    throw new EternoError(
      'io',
      `The database ${databasePath()} can’t be opened: look at the rights of the file and its folder.`,
      { cause: thrown },
    );
  throw thrown;
}

/** The process's one connection, opened on first use. */
export function database(): Promise<Database> {
  // one that could not be opened is tried again
  return (held.eternoDatabase ??= open().catch((thrown: unknown) => {
    delete held.eternoDatabase;
    throw thrown;
  }));
}

/**
 * Does all of `work` or nothing of it. Transactions of this process run after each other: each has a
 * connection of its own, and SQLite lets one write at a time. One inside another is part of it.
 */
export async function inTransaction<T>(
  work: (transaction: Transaction, models: Models) => Promise<T>,
): Promise<T> {
  const outer = within.getStore();
  if (outer) return work(outer.transaction, outer.models);
  const { sequelize, models } = await database();
  return inTurn(() =>
    sequelize.transaction((transaction) =>
      within.run({ transaction, models }, () => work(transaction, models)),
    ),
  );
}

/** Does `work` when what was written is kept: at once outside a transaction, never where it is taken back. */
export function whenKept(work: () => void): void {
  const outer = within.getStore();
  if (outer) outer.transaction.afterCommit(work);
  else work();
}

/** For scripts and tests that end, or change the data folder. */
export async function closeDatabase(): Promise<void> {
  const opened = await held.eternoDatabase;
  delete held.eternoDatabase;
  await opened?.sequelize.close();
}
