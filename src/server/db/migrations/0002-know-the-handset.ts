import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };
const maybeText = { type: DataTypes.TEXT, allowNull: true };
const number = { type: DataTypes.BIGINT, allowNull: false };
const maybeNumber = { type: DataTypes.BIGINT, allowNull: true };
const key = { ...text, primaryKey: true };
const ofHandset = { ...text, references: { model: 'handsets', key: 'id' }, onDelete: 'CASCADE' };

/**
 * Who told a fact, choices between sources, the whole history of the slots, the shelves and the handset's own
 * records.
 */
export async function up(db: QueryInterface): Promise<void> {
  await db.addColumn('facts', 'witness', { ...text, defaultValue: 'system' });
  await db.createTable('fact_choices', {
    id: key,
    handsetId: ofHandset,
    key: text,
    value: text,
    reason: text,
    at: number,
  });
  // what lies on a slot is a history now: a later entry follows an earlier one, and none is lost
  await db.removeIndex('slot_contents', ['handsetId', 'slot', 'partition']);
  await db.addIndex('slot_contents', ['handsetId', 'at']);
  await db.createTable('recoveries', {
    id: key,
    name: text,
    version: text,
    channel: text,
    devices: text,
    sdkFrom: maybeNumber,
    sdkTo: maybeNumber,
    sha256: maybeText,
    note: text,
    addedAt: number,
  });
  await db.createTable('trials', {
    id: key,
    shelf: text,
    item: text,
    fingerprint: text,
    handsetId: maybeText,
    roundId: maybeText,
    outcome: text,
    note: text,
    at: number,
  });
  await db.addIndex('trials', ['shelf', 'item', 'fingerprint']);
  await db.createTable('backups', {
    id: key,
    handsetId: ofHandset,
    what: text,
    place: text,
    note: text,
    at: number,
  });
  await db.createTable('clocks', {
    id: key,
    handsetId: ofHandset,
    kind: text,
    endsAt: number,
    note: text,
    doneAt: maybeNumber,
  });
  await db.createTable('dependencies', {
    id: key,
    handsetId: ofHandset,
    name: text,
    effect: text,
    needed: text,
    note: text,
    at: number,
  });
  await db.createTable('downgrade_edges', {
    id: key,
    device: text,
    fromBuild: text,
    toBuild: text,
    allowed: text,
    note: text,
    at: number,
  });
}
