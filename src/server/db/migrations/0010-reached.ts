import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** Whether a round reached what it was for. Rounds of before are not judged afterwards. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('rounds', 'reached', { type: DataTypes.TEXT, allowNull: true });
}
