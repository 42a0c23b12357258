import 'server-only';
import { randomUUID } from 'node:crypto';
import { database, inTransaction } from '../db/connection';
import type {
  BackupRow,
  ClockRow,
  DependencyRow,
  DowngradeEdgeRow,
  RecoveryRow,
  TrialRow,
} from '../db/record-rows';
import type { KeptRecovery } from '@/core/bench/bench';
import type { KeptBackup } from '../db/decode';
import { decodeBackup, decodeRecovery } from '../db/decode';
import { ofHandset, rowsOf } from './rows';

/* The shelves (recoveries, trials of kits and recoveries) and what a person notes of a handset. */

export async function listRecoveries(): Promise<KeptRecovery[]> {
  const { models } = await database();
  return (await rowsOf<RecoveryRow>(models.Recovery, { order: [['addedAt', 'DESC']] })).map(decodeRecovery);
}

export async function insertRecovery({ devices, ...row }: Omit<KeptRecovery, 'id'>): Promise<string> {
  const { models } = await database();
  const id = randomUUID();
  await models.Recovery.create({ id, ...row, devices: JSON.stringify(devices) });
  return id;
}

export async function listTrials(): Promise<Readonly<TrialRow>[]> {
  const { models } = await database();
  return rowsOf<TrialRow>(models.Trial, { order: [['at', 'DESC']] });
}

export async function insertTrial(row: Omit<TrialRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.Trial.create({ id: randomUUID(), ...row });
}

export async function backupsOf(handsetId: string): Promise<KeptBackup[]> {
  const { models } = await database();
  const rows = await rowsOf<BackupRow>(models.Backup, { where: { handsetId }, order: [['at', 'DESC']] });
  return rows.map(decodeBackup);
}

export async function insertBackup({ parts, ...row }: Omit<KeptBackup, 'id'>): Promise<void> {
  const { models } = await database();
  await models.Backup.create({
    id: randomUUID(),
    ...row,
    parts: parts === null ? null : JSON.stringify(parts),
  });
}

export async function clocksOf(handsetId?: string): Promise<Readonly<ClockRow>[]> {
  const { models } = await database();
  return rowsOf<ClockRow>(models.Clock, { where: ofHandset(handsetId), order: [['endsAt', 'ASC']] });
}

export async function insertClock(row: Omit<ClockRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.Clock.create({ id: randomUUID(), ...row });
}

export async function dependenciesOf(handsetId: string): Promise<Readonly<DependencyRow>[]> {
  const { models } = await database();
  return rowsOf<DependencyRow>(models.Dependency, { where: { handsetId }, order: [['name', 'ASC']] });
}

/** What is noted of one app; said anew, it takes the place of what was said before. */
export async function setDependency(row: Omit<DependencyRow, 'id'>): Promise<void> {
  await inTransaction(async (transaction, models) => {
    await models.Dependency.destroy({ where: { handsetId: row.handsetId, name: row.name }, transaction });
    await models.Dependency.create({ id: randomUUID(), ...row }, { transaction });
  });
}

export async function listEdges(): Promise<Readonly<DowngradeEdgeRow>[]> {
  const { models } = await database();
  return rowsOf<DowngradeEdgeRow>(models.DowngradeEdge, { order: [['at', 'DESC']] });
}

export async function insertEdge(row: Omit<DowngradeEdgeRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.DowngradeEdge.create({ id: randomUUID(), ...row });
}
