import { copyFile, link, mkdir, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { QueryTypes, Sequelize } from 'sequelize';
import { inTransaction } from '@/server/db/connection';
import { databasePath, vaultDir } from '@/server/db/data-dir';
import { migrate } from '@/server/db/migrate';
import { CABLE, CABLE_FOR, DOWNLOAD_PAGE, PRACTICE_SLIPS, RESCUE_CASE } from '@/server/db/setting-keys';
import { deleteHandset, listHandsets } from '@/server/repositories/handset-repository';
import { dropSetting, settingsLike } from '@/server/repositories/setting-repository';
import { interruptRunningJobs } from '@/server/repositories/event-repository';
import { now } from '@/server/services/clock';

/* The store and the shelves of one's own Eterno, copied for practice: one handset of it, and nothing under way. */

/** Private images of data are left where they are. */
const SHELVES = ['images', 'kits', 'installs', 'modules', 'pictures'] as const;

/** A file of the vault is never written again once it is there: both stores can have the same one. */
async function alsoHere(from: string, to: string): Promise<void> {
  await link(from, to).catch(() => copyFile(from, to));
}

async function copyShelves(from: string): Promise<void> {
  for (const shelf of SHELVES) {
    const folder = join(from, 'vault', shelf);
    for (const part of await readdir(folder).catch(() => [] as string[])) {
      const to = join(vaultDir(), shelf, part);
      await mkdir(to, { recursive: true });
      for (const name of await readdir(join(folder, part)))
        if (/^[0-9a-f]{64}$/.test(name)) await alsoHere(join(folder, part, name), join(to, name));
    }
  }
}

/** The store as it is now, whole, whoever writes to it meanwhile. */
async function copyDatabase(from: string): Promise<void> {
  const sequelize = new Sequelize({
    dialect: 'sqlite',
    storage: join(from, 'eterno.sqlite'),
    logging: false,
  });
  try {
    await sequelize.query('PRAGMA busy_timeout = 10000');
    await sequelize.query('VACUUM INTO ?', { replacements: [databasePath()], type: QueryTypes.RAW });
  } finally {
    await sequelize.close();
  }
}

async function keepOnly(handsetId: string): Promise<void> {
  for (const { id } of await listHandsets()) if (id !== handsetId) await deleteHandset(id);
  for (const prefix of [CABLE, CABLE_FOR, RESCUE_CASE, DOWNLOAD_PAGE, PRACTICE_SLIPS])
    for (const { key } of await settingsLike(prefix)) await dropSetting(key);
  await inTransaction(async (transaction, models) => {
    const ended = { state: 'given-up' as const, closedAt: now() };
    await models.Round.update(ended, { where: { state: 'open' }, transaction });
  });
  await interruptRunningJobs(now());
}

/**
 * Copies a store and its shelves into this one's folder.
 * @param from the data folder that it is copied from; nothing there is changed
 * @param handsetId the only handset that is left in the copy
 */
export async function copyOwnStore(from: string, handsetId: string): Promise<void> {
  await copyDatabase(from);
  await migrate();
  await copyShelves(from);
  await keepOnly(handsetId);
}
