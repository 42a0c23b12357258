import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

/** Who opened a package. Reports of before are a page's: images that they made stock stay what they are. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('packages', 'readBy', { type: DataTypes.TEXT, allowNull: false, defaultValue: 'page' });
}
