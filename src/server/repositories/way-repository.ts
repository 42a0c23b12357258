import 'server-only';
import { randomUUID } from 'node:crypto';
import { database } from '../db/connection';
import type { KeptWay } from '../db/decode';
import { decodeWay } from '../db/decode';
import type { ModelWayRow } from '../db/record-rows';
import { rowsOf } from './rows';

/* Keys, words and habits of models, as they were said. What is said anew is put beside what was said before. */

/** Of one model; of all where none is named. Newest first. */
export async function listWays(model?: string): Promise<KeptWay[]> {
  const { models } = await database();
  const rows = await rowsOf<ModelWayRow>(models.ModelWay, {
    where: model === undefined ? {} : { model },
    order: [['at', 'DESC']],
  });
  return rows.flatMap((row) => decodeWay(row) ?? []);
}

export async function insertWay({
  value,
  ...row
}: Omit<KeptWay, 'id' | 'at'> & { readonly at: number }): Promise<void> {
  const { models } = await database();
  await models.ModelWay.create({ id: randomUUID(), ...row, value: JSON.stringify(value) });
}

/** Everything that was said of a way of a model goes. */
export async function deleteWay(model: string, way: KeptWay['way']): Promise<void> {
  const { models } = await database();
  await models.ModelWay.destroy({ where: { model, way } });
}
