import 'server-only';
import { randomUUID } from 'node:crypto';
import { Op } from 'sequelize';
import { database } from '../db/connection';
import type { PutBackRow, SettingRow } from '../db/models';
import { ofHandset, plain, rowsOf } from './rows';

/* Settings, and what was changed for a while and has to be put back. */

export async function readSetting(key: string): Promise<string | null> {
  const { models } = await database();
  const found = await models.Setting.findByPk(key);
  return found ? plain<SettingRow>(found).value : null;
}

/** Settings whose keys begin alike. */
export async function settingsLike(prefix: string): Promise<Readonly<SettingRow>[]> {
  const { models } = await database();
  return rowsOf<SettingRow>(models.Setting, { where: { key: { [Op.startsWith]: prefix } } });
}

export async function writeSetting(key: string, value: string): Promise<void> {
  const { models } = await database();
  await models.Setting.upsert({ key, value });
}

export async function dropSetting(key: string): Promise<void> {
  const { models } = await database();
  await models.Setting.destroy({ where: { key } });
}

export async function putBacksOf(handsetId?: string): Promise<Readonly<PutBackRow>[]> {
  const { models } = await database();
  return rowsOf<PutBackRow>(models.PutBack, { where: ofHandset(handsetId), order: [['openedAt', 'ASC']] });
}

export async function insertPutBack(row: Omit<PutBackRow, 'id' | 'closedAt' | 'closedBy'>): Promise<void> {
  const { models } = await database();
  await models.PutBack.create({ id: randomUUID(), ...row, closedAt: null, closedBy: null });
}

export async function closePutBack(id: string, closedAt: number, closedBy: string): Promise<void> {
  const { models } = await database();
  await models.PutBack.update({ closedAt, closedBy }, { where: { id, closedAt: null } });
}
