import 'server-only';
import { database, inTransaction } from '../db/connection';
import type { CalendarEntryRow } from '../db/models';
import { rowsOf } from './rows';

export async function listEntries(): Promise<Readonly<CalendarEntryRow>[]> {
  const { models } = await database();
  return rowsOf<CalendarEntryRow>(models.CalendarEntry, { order: [['startsAt', 'ASC']] });
}

/** What has a UID that is here takes the place of what was. */
export async function keepEntries(rows: readonly CalendarEntryRow[]): Promise<void> {
  await inTransaction(async (transaction, models) => {
    for (const row of rows) await models.CalendarEntry.upsert({ ...row }, { transaction });
  });
}

export async function dropEntry(uid: string): Promise<void> {
  const { models } = await database();
  await models.CalendarEntry.destroy({ where: { uid } });
}
