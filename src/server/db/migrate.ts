import 'server-only';
import { constants } from 'node:fs';
import { copyFile, stat } from 'node:fs/promises';
import { Umzug, SequelizeStorage } from 'umzug';
import { EternoError } from '@/core/errors';
import { filesInVault } from '../vault/vault';
import { database, unreadable } from './connection';
import { dataDir, databasePath } from './data-dir';
import * as firstTables from './migrations/0001-first-tables';
import * as knowTheHandset from './migrations/0002-know-the-handset';
import * as rounds from './migrations/0003-rounds';
import * as leases from './migrations/0004-leases';
import * as modules from './migrations/0005-modules';
import * as readingAll from './migrations/0006-reading-all';
import * as sameWayAgain from './migrations/0007-same-way-again';
import * as oneOpenRound from './migrations/0008-one-open-round';
import * as reportBy from './migrations/0009-report-by';
import * as reached from './migrations/0010-reached';
import * as putAway from './migrations/0011-put-away';
import * as judgedImages from './migrations/0012-judged-images';
import * as whatKitsDo from './migrations/0013-what-kits-do';
import * as recoveryInside from './migrations/0014-recovery-inside';
import * as ownWays from './migrations/0015-own-ways';
import * as whatARecoveryOpens from './migrations/0018-what-a-recovery-opens';
import * as leastApp from './migrations/0017-least-app';
import * as backupSets from './migrations/0016-backup-sets';

/** Every migration in order; an explicit list, so that a bundler sees them. */
const MIGRATIONS = [
  { name: '0001-first-tables', up: firstTables.up },
  { name: '0002-know-the-handset', up: knowTheHandset.up },
  { name: '0003-rounds', up: rounds.up },
  { name: '0004-leases', up: leases.up },
  { name: '0005-modules', up: modules.up },
  { name: '0006-reading-all', up: readingAll.up },
  { name: '0007-same-way-again', up: sameWayAgain.up },
  { name: '0008-one-open-round', up: oneOpenRound.up },
  { name: '0009-report-by', up: reportBy.up },
  { name: '0010-reached', up: reached.up },
  { name: '0011-put-away', up: putAway.up },
  { name: '0012-judged-images', up: judgedImages.up },
  { name: '0013-what-kits-do', up: whatKitsDo.up },
  { name: '0014-recovery-inside', up: recoveryInside.up },
  { name: '0015-own-ways', up: ownWays.up },
  { name: '0016-backup-sets', up: backupSets.up },
  { name: '0017-least-app', up: leastApp.up },
  { name: '0018-what-a-recovery-opens', up: whatARecoveryOpens.up },
] as const;

/**
 * Brings the database to the newest shape, all of it or nothing: a kill in the middle leaves it as it was. A
 * copy of the file is kept beside it first, and never replaced by a later one. Runs before the server
 * listens.
 */
export async function migrate(): Promise<readonly string[]> {
  const { sequelize } = await database();
  const storage = new SequelizeStorage({ sequelize });
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, up }) => ({
      name,
      up: ({ context }: { context: ReturnType<typeof sequelize.getQueryInterface> }) => up(context),
    })),
    context: sequelize.getQueryInterface(),
    storage,
    logger: undefined,
  });
  // as the store has them: of those that it does not know the library says nothing
  const executed = await storage.executed().catch(unreadable);
  const newer = executed.find((name) => !MIGRATIONS.some((migration) => migration.name === name));
  if (newer !== undefined)
    throw new EternoError(
      'unsupported',
      `This store was made by a newer Eterno (${newer}). Start that one, or give this one a folder of its own.`,
    );
  if (executed.length === 0 && (await filesInVault()).length > 0)
    throw new EternoError(
      'conflict',
      `The database in ${dataDir()} is empty, and its vault holds files. Put the database back (copies of before each update lie beside it), or move the folder “vault” away and restore a backup.`,
    );
  const pending = await umzug.pending();
  const size = await stat(databasePath()).then(
    (info) => info.size,
    () => 0,
  );
  if (pending.length > 0 && size > 0 && executed.length > 0) {
    await sequelize.query('PRAGMA wal_checkpoint(TRUNCATE)');
    await copyFile(
      databasePath(),
      `${databasePath()}.before-${pending[0]!.name}`,
      constants.COPYFILE_EXCL,
    ).catch((thrown: { code?: string }) => {
      if (thrown.code !== 'EEXIST') throw thrown;
    });
  }
  if (pending.length === 0) return [];
  // the process's one connection: what is asked on it until COMMIT is in this transaction, the list of what
  // was done too
  await sequelize.query('BEGIN IMMEDIATE');
  try {
    const done = await umzug.up();
    await sequelize.query('COMMIT');
    return done.map((migration) => migration.name);
  } catch (thrown) {
    await sequelize.query('ROLLBACK').catch(() => undefined);
    throw thrown;
  }
}
