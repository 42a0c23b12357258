import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** Whether the person would do a round the same way again, and why not. */
export async function up(db: QueryInterface): Promise<void> {
  for (const column of ['again', 'againNote'])
    await db.addColumn('rounds', column, { type: DataTypes.TEXT, allowNull: true });
}
