import 'server-only';
import { Op } from 'sequelize';
import { randomUUID } from 'node:crypto';
import { database } from '../db/connection';
import type { EventRow, JobRow } from '../db/models';
import type { EventKind, KeptEvent } from '../db/event-data';
import { decodeEvent } from '../db/event-data';
import { plain, rowsOf } from './rows';

/** Appends to the log; nothing is ever changed or taken out of it. */
export async function appendEvent(event: Omit<EventRow, 'id' | 'data'> & { data: object }): Promise<void> {
  const { models } = await database();
  await models.Event.create({ ...event, data: JSON.stringify(event.data) } as never);
}

export async function listEvents(
  where: { handsetId?: string; roundId?: string; kind?: string } = {},
): Promise<Readonly<EventRow>[]> {
  const { models } = await database();
  return rowsOf<EventRow>(models.Event as never, {
    where,
    order: [
      ['at', 'ASC'],
      ['id', 'ASC'],
    ],
  });
}

/** Lines of one kind, decoded, oldest first. */
export async function eventsOf<K extends EventKind>(
  kind: K,
  where: { handsetId?: string; roundId?: string } = {},
): Promise<KeptEvent<K>[]> {
  return (await listEvents({ ...where, kind })).map((row) => decodeEvent<K>(row));
}

export async function insertJob(row: Omit<JobRow, 'id'>): Promise<Readonly<JobRow>> {
  const { models } = await database();
  return plain<JobRow>(await models.Job.create({ id: randomUUID(), ...row }));
}

export async function updateJob(id: string, change: Partial<JobRow>): Promise<void> {
  const { models } = await database();
  await models.Job.update(change, { where: { id } });
}

export async function recentJobs(since: number): Promise<Readonly<JobRow>[]> {
  const { models } = await database();
  return rowsOf<JobRow>(models.Job, {
    where: { [Op.or]: [{ state: 'running' }, { endedAt: { [Op.gte]: since } }] },
    order: [['startedAt', 'DESC']],
    limit: 20,
  });
}

/** What jobs do that say they run on a round. */
export async function runningJobKinds(roundId: string): Promise<string[]> {
  const { models } = await database();
  return (await rowsOf<JobRow>(models.Job, { where: { state: 'running', roundId } })).map(({ kind }) => kind);
}

export async function interruptRunningJobs(at: number): Promise<number> {
  const { models } = await database();
  const [count] = await models.Job.update(
    { state: 'interrupted', endedAt: at },
    { where: { state: 'running' } },
  );
  return count;
}
