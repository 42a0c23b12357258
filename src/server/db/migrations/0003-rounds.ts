import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };
const maybeText = { type: DataTypes.TEXT, allowNull: true };
const number = { type: DataTypes.BIGINT, allowNull: false };
const maybeNumber = { type: DataTypes.BIGINT, allowNull: true };
const key = { ...text, primaryKey: true };

/**
 * Steps had names of their own in the one lane that there was; now they have those of the planner's actions.
 */
const RENAMED: readonly (readonly [string, string])[] = [
  ['find-package', 'open-installed-package'],
  ['take-image', 'take-stock'],
  ['patch-image', 'patch'],
  ['enter-bootloader', 'bootloader'],
  ['write-image', 'write-root'],
  ['restart', 'start'],
];

/** Rounds carry a plan; what was changed for a while is remembered until it is undone; settings. */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('handsets', 'profile', maybeText);
  await db.sequelize.query("UPDATE handsets SET profile = 'north-gate' WHERE link = 'stand-in'");
  await db.addColumn('rounds', 'target', maybeText);
  await db.addColumn('rounds', 'plan', { ...text, defaultValue: '{"version":1}' });
  await db.addColumn('rounds', 'basedOn', maybeText);
  await db.sequelize.query("UPDATE rounds SET kind = replace(kind, '-', ' ')");
  await db.addColumn('steps', 'about', { ...text, defaultValue: '{"version":1}' });
  for (const [before, after] of RENAMED) await db.bulkUpdate('steps', { key: after }, { key: before });
  await db.createTable('put_backs', {
    id: key,
    handsetId: { ...text, references: { model: 'handsets', key: 'id' }, onDelete: 'CASCADE' },
    roundId: maybeText,
    kind: text,
    what: text,
    openedAt: number,
    closedAt: maybeNumber,
    closedBy: maybeText,
  });
  await db.addIndex('put_backs', ['handsetId', 'openedAt']);
  await db.createTable('settings', { key, value: text });
}
