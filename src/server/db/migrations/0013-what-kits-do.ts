import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** What a kit says it does by itself. Kits that are here already are of version 1, which says nothing of it. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('kits', 'restsAfter', { type: DataTypes.INTEGER, allowNull: true });
  await db.addColumn('kits', 'changesKernel', { type: DataTypes.TEXT, allowNull: true });
}
