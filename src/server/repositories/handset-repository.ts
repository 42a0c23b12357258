import 'server-only';
import { randomUUID } from 'node:crypto';
import type { Model, ModelStatic, Transaction, WhereOptions } from 'sequelize';
import { col, fn, Op } from 'sequelize';
import { database, inTransaction } from '../db/connection';
import type { FactChoiceRow, FactRow, HandsetRow, Models, SecretRow, SlotContentRow } from '../db/models';
import { ofHandset, plain, rowsOf } from './rows';

export async function listHandsets(): Promise<Readonly<HandsetRow>[]> {
  const { models } = await database();
  return rowsOf<HandsetRow>(models.Handset, { order: [['createdAt', 'ASC']] });
}

export async function findHandset(id: string): Promise<Readonly<HandsetRow> | null> {
  const { models } = await database();
  const found = await models.Handset.findByPk(id);
  return found ? plain<HandsetRow>(found) : null;
}

export async function insertHandset(
  row: Omit<HandsetRow, 'id' | 'putAwayAt'> & { id?: string },
): Promise<Readonly<HandsetRow>> {
  const { models } = await database();
  return plain<HandsetRow>(await models.Handset.create({ id: randomUUID(), putAwayAt: null, ...row }));
}

/** The handset that has this serial; null where none has. */
export async function findBySerial(serial: string): Promise<Readonly<HandsetRow> | null> {
  const { models } = await database();
  const found = await models.Secret.findOne({ where: { name: 'serial', value: serial } });
  return found ? findHandset(plain<SecretRow>(found).handsetId) : null;
}

/** A handset with every row that speaks of it, and of its rounds; all or nothing. */
export async function deleteHandset(id: string): Promise<void> {
  await inTransaction(async (transaction, models) => {
    const rounds = await rowsOf<{ id: string }>(models.Round as never, {
      attributes: ['id'],
      where: { handsetId: id } as never,
      transaction,
    });
    const roundId = { [Op.in]: rounds.map((round) => round.id) };
    for (const model of Object.values(models) as ModelStatic<Model>[]) {
      const columns = model.getAttributes();
      if ('roundId' in columns) await model.destroy({ where: { roundId } as never, transaction });
      if ('handsetId' in columns) await model.destroy({ where: { handsetId: id } as never, transaction });
    }
    await models.Handset.destroy({ where: { id }, transaction });
  });
}

export async function updateHandset(id: string, change: Partial<Omit<HandsetRow, 'id'>>): Promise<void> {
  const { models } = await database();
  await models.Handset.update(change, { where: { id } });
}

/**
 * The newest report of each witness on each fact; of all handsets where none is named. The other columns of
 * a maximum are its row's own.
 */
export const newestFacts = (handsetId?: string): Promise<Readonly<FactRow>[]> =>
  newestReports(ofHandset(handsetId));

/** The same of all handsets, on these facts alone. */
export const newestOf = (keys: readonly string[]): Promise<Readonly<FactRow>[]> =>
  newestReports({ key: { [Op.in]: [...keys] } });

async function newestReports(where: WhereOptions<FactRow>): Promise<Readonly<FactRow>[]> {
  const { models } = await database();
  return rowsOf<FactRow>(models.Fact, {
    attributes: ['id', 'handsetId', 'key', 'value', 'source', 'witness', [fn('MAX', col('at')), 'at']],
    where,
    group: ['handsetId', 'key', 'witness'],
    order: [[col('at'), 'DESC']],
  });
}

/**
 * The newest patch level that each handset ever told of itself; what an image says of itself need never have
 * run.
 */
export async function patchLevelsRun(
  handsetId?: string,
): Promise<readonly { readonly handsetId: string; readonly newest: string }[]> {
  const { models } = await database();
  return rowsOf<{ handsetId: string; newest: string }>(models.Fact as never, {
    attributes: ['handsetId', [fn('MAX', col('value')), 'newest']] as never,
    where: { ...ofHandset(handsetId), key: 'patchLevel', witness: { [Op.ne]: 'image' } } as never,
    group: ['handsetId'],
  });
}

export async function insertFacts(
  handsetId: string,
  facts: readonly { key: string; value: string }[],
  told: Pick<FactRow, 'source' | 'witness' | 'at'>,
): Promise<void> {
  const { models } = await database();
  await models.Fact.bulkCreate(
    facts.map(({ key, value }) => ({ id: randomUUID(), handsetId, key, value, ...told })),
  );
}

/** Choices between sources, newest first. */
export async function factChoicesOf(handsetId?: string): Promise<Readonly<FactChoiceRow>[]> {
  const { models } = await database();
  return rowsOf<FactChoiceRow>(models.FactChoice, { where: ofHandset(handsetId), order: [['at', 'DESC']] });
}

export async function insertFactChoice(row: Omit<FactChoiceRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.FactChoice.create({ id: randomUUID(), ...row });
}

/** Private values (serial, token, code): apart from the facts, never in anything made to be shared. */
/** What is private of a handset, in the order in which a person would name it. */
export const PRIVATE_NAMES = ['serial', 'token', 'code'] as const;
/** Where values lie that were replaced: they stand in old evidence and notes still. */
const FORMER = 'former';
const MOST_FORMER = 200;

/** Values that were replaced. */
export async function formerSecrets(handsetId: string): Promise<readonly string[]> {
  return formerOf(await readSecret(handsetId, FORMER));
}
const formerOf = (kept: string | null) => (kept === null ? [] : (JSON.parse(kept) as string[]));

export async function readSecret(handsetId: string, name: string): Promise<string | null> {
  const { models } = await database();
  const found = await models.Secret.findOne({ where: { handsetId, name } });
  return found ? plain(found).value : null;
}

/**
 * Keeps a private value; the one that it takes the place of is remembered under `former`, a JSON list, so
 * that it can still be taken out of texts.
 */
export async function writeSecret(handsetId: string, name: string, value: string): Promise<void> {
  await inTransaction((transaction, models) => keepSecretIn(models, transaction, handsetId, name, value));
}

/** The same in a transaction of something larger. */
export async function keepSecretIn(
  models: Models,
  transaction: Transaction,
  handsetId: string,
  name: string,
  value: string,
): Promise<void> {
  const [before, former] = await Promise.all(
    [name, FORMER].map((one) => models.Secret.findOne({ where: { handsetId, name: one }, transaction })),
  );
  const old = before ? plain(before).value : null;
  if (old !== null && old !== value && (PRIVATE_NAMES as readonly string[]).includes(name)) {
    const list = formerOf(former ? plain(former).value : null);
    await models.Secret.destroy({ where: { handsetId, name: FORMER }, transaction });
    const values = JSON.stringify([...new Set([...list, old])].slice(-MOST_FORMER));
    await models.Secret.create({ id: randomUUID(), handsetId, name: FORMER, value: values }, { transaction });
  }
  await models.Secret.destroy({ where: { handsetId, name }, transaction });
  await models.Secret.create({ id: randomUUID(), handsetId, name, value }, { transaction });
}

/** Everything ever told of a handset's slots, oldest first. */
export async function slotHistoryOf(handsetId?: string): Promise<Readonly<SlotContentRow>[]> {
  const { models } = await database();
  return rowsOf<SlotContentRow>(models.SlotContent, { where: ofHandset(handsetId), order: [['at', 'ASC']] });
}

/** Appends to the history of one partition of one slot. */
export async function addSlotContent(row: Omit<SlotContentRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.SlotContent.create({ id: randomUUID(), ...row });
}
