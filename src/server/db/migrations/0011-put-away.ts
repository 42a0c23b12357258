import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** When a handset was put away: kept, and out of the way. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('handsets', 'putAwayAt', { type: DataTypes.INTEGER, allowNull: true });
}
