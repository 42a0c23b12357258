import 'server-only';
import { mkdir } from 'node:fs/promises';
import { Sequelize, Transaction } from 'sequelize';
import { dataDir, databasePath } from './data-dir';
import { defineModels } from './models';
import type { Models } from './models';

export interface Database {
  readonly sequelize: Sequelize;
  readonly models: Models;
}

const held = globalThis as { eternoDatabase?: Promise<Database>; eternoWriting?: Promise<unknown> };

async function open(): Promise<Database> {
  await mkdir(/*turbopackIgnore: true*/ dataDir(), { recursive: true });
  const sequelize = new Sequelize({
    dialect: 'sqlite',
    storage: databasePath(),
    logging: false,
    pool: { max: 1, min: 1, idle: 60_000 },
    // a transaction has a connection of its own, and another process may write too: what is locked is asked again for a while
    retry: { match: [/SQLITE_BUSY/], max: 20, backoffBase: 20, backoffExponent: 1.5 },
    // a transaction that begins by reading would fail at its first write if another process wrote meanwhile
    transactionType: Transaction.TYPES.IMMEDIATE,
  });
  await sequelize.query('PRAGMA journal_mode = WAL');
  await sequelize.query('PRAGMA busy_timeout = 10000');
  await sequelize.query('PRAGMA foreign_keys = ON');
  return { sequelize, models: defineModels(sequelize) };
}

/** The process's one connection, opened on first use. */
export function database(): Promise<Database> {
  return (held.eternoDatabase ??= open());
}

/**
 * Does all of `work` or nothing of it. Transactions of this process run after each other: each has a connection of its own, and SQLite lets
 * one write at a time.
 */
export async function inTransaction<T>(work: (transaction: Transaction, models: Models) => Promise<T>): Promise<T> {
  const { sequelize, models } = await database();
  const mine = (held.eternoWriting ?? Promise.resolve()).then(() => sequelize.transaction((transaction) => work(transaction, models)));
  held.eternoWriting = mine.catch(() => undefined);
  return mine;
}

/** For scripts and tests that end, or change the data folder. */
export async function closeDatabase(): Promise<void> {
  const opened = await held.eternoDatabase;
  delete held.eternoDatabase;
  await opened?.sequelize.close();
}
