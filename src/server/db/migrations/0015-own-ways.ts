import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };

/** Keys, words and habits of a model. They are the model's: they stay when a handset goes. */
export async function up(db: QueryInterface): Promise<void> {
  await db.createTable('model_ways', {
    id: { ...text, primaryKey: true },
    model: text,
    way: text,
    value: text,
    sureness: text,
    source: text,
    at: { type: DataTypes.BIGINT, allowNull: false },
  });
  await db.addIndex('model_ways', ['model']);
}
