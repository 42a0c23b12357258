import 'server-only';
import type { Model } from 'sequelize';

/** A row as a plain readonly object; SQLite's 64-bit integers come back as numbers, checked. */
export function plain<T extends object>(model: Model<T, never> | Model<T, T>): Readonly<T> {
  return Object.freeze({ ...(model.get({ plain: true }) as T) });
}
export const plainAll = <T extends object>(models: readonly (Model<T, never> | Model<T, T>)[]): Readonly<T>[] =>
  models.map((model) => plain<T>(model));
