import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** The newest platform level whose storage a recovery opens, as its own image says it. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('recoveries', 'opensUpTo', { type: DataTypes.BIGINT, allowNull: true });
}
