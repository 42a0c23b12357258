import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** Which recovery was put into a stock image that it shares with other things. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('images', 'recoverySha256', { type: DataTypes.TEXT, allowNull: true });
}
