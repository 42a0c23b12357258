import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** What an image patched elsewhere was found to be, and why a person trusts a ready-made one. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('images', 'judged', { type: DataTypes.TEXT, allowNull: true });
  await db.addColumn('images', 'trust', { type: DataTypes.TEXT, allowNull: true });
}
