import 'server-only';
import { randomUUID } from 'node:crypto';
import { database } from '../db/connection';
import type { FactRow, HandsetRow, SlotContentRow } from '../db/models';
import { plain, plainAll } from './rows';

export async function listHandsets(): Promise<Readonly<HandsetRow>[]> {
  const { models } = await database();
  return plainAll<HandsetRow>(await models.Handset.findAll({ order: [['createdAt', 'ASC']] }));
}

export async function findHandset(id: string): Promise<Readonly<HandsetRow> | null> {
  const { models } = await database();
  const found = await models.Handset.findByPk(id);
  return found ? plain<HandsetRow>(found) : null;
}

export async function insertHandset(row: Omit<HandsetRow, 'id'> & { id?: string }): Promise<Readonly<HandsetRow>> {
  const { models } = await database();
  return plain<HandsetRow>(await models.Handset.create({ id: randomUUID(), ...row }));
}

export async function updateHandset(id: string, change: Partial<Omit<HandsetRow, 'id'>>): Promise<void> {
  const { models } = await database();
  await models.Handset.update(change, { where: { id } });
}

/** Every fact ever told, newest first. */
export async function factsOf(handsetId: string): Promise<Readonly<FactRow>[]> {
  const { models } = await database();
  return plainAll<FactRow>(await models.Fact.findAll({ where: { handsetId }, order: [['at', 'DESC']] }));
}

export async function insertFacts(
  handsetId: string,
  facts: readonly { key: string; value: string }[],
  source: FactRow['source'],
  at: number,
): Promise<void> {
  const { models } = await database();
  await models.Fact.bulkCreate(facts.map((fact) => ({ id: randomUUID(), handsetId, ...fact, source, at })));
}

/** Private values (serial, token, code): apart from the facts, never in anything made to be shared. */
export async function readSecret(handsetId: string, name: string): Promise<string | null> {
  const { models } = await database();
  const found = await models.Secret.findOne({ where: { handsetId, name } });
  return found ? plain(found).value : null;
}

export async function writeSecret(handsetId: string, name: string, value: string): Promise<void> {
  const { models, sequelize } = await database();
  await sequelize.transaction(async (transaction) => {
    await models.Secret.destroy({ where: { handsetId, name }, transaction });
    await models.Secret.create({ id: randomUUID(), handsetId, name, value }, { transaction });
  });
}

export async function slotContentsOf(handsetId: string): Promise<Readonly<SlotContentRow>[]> {
  const { models } = await database();
  return plainAll<SlotContentRow>(await models.SlotContent.findAll({ where: { handsetId }, order: [['slot', 'ASC']] }));
}

export async function setSlotContent(row: Omit<SlotContentRow, 'id'>): Promise<void> {
  const { models, sequelize } = await database();
  const where = { handsetId: row.handsetId, slot: row.slot, partition: row.partition };
  await sequelize.transaction(async (transaction) => {
    await models.SlotContent.destroy({ where, transaction });
    await models.SlotContent.create({ id: randomUUID(), ...row }, { transaction });
  });
}
