import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };
const number = { type: DataTypes.BIGINT, allowNull: false };

/** Who works on a handset now; a way down may want an older bootloader. */
export async function up(db: QueryInterface): Promise<void> {
  await db.createTable('leases', { handsetId: { ...text, primaryKey: true }, holder: text, until: number });
  await db.addColumn('downgrade_edges', 'bootloader', { type: DataTypes.BIGINT, allowNull: true });
}
