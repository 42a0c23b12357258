import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** What was said to be in a backup. Of those before nobody was asked. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('backups', 'parts', { type: DataTypes.TEXT, allowNull: true });
}
