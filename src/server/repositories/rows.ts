import 'server-only';
import type { FindOptions, Model, ModelStatic } from 'sequelize';

/** A row as a plain readonly object; SQLite's 64-bit integers come back as numbers, checked. */
export function plain<T extends object>(model: Model<T, never> | Model<T, T>): Readonly<T> {
  return Object.freeze({ ...(model.get({ plain: true }) as T) });
}

/** Of one handset; of all where none is named. */
export const ofHandset = (handsetId: string | undefined) => (handsetId === undefined ? {} : { handsetId });

/**
 * Rows as plain readonly objects, without a model's instance for each: a store of years has tens of
 * thousands.
 */
export async function rowsOf<T extends object>(
  table: ModelStatic<Model<T, T>>,
  options: FindOptions<T> = {},
): Promise<Readonly<T>[]> {
  const rows = (await table.findAll({ ...options, raw: true })) as unknown as T[];
  return rows.map((row) => Object.freeze(row));
}
