import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** The least version of its app that a kit states. Of kits before it is read again from their files. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('kits', 'leastApp', { type: DataTypes.BIGINT, allowNull: true });
}
