import 'server-only';
import type { QueryInterface } from 'sequelize';
import { DataTypes } from 'sequelize';

const text = { type: DataTypes.TEXT, allowNull: false };
const maybeText = { type: DataTypes.TEXT, allowNull: true };
const number = { type: DataTypes.BIGINT, allowNull: false };
const maybeNumber = { type: DataTypes.BIGINT, allowNull: true };
const key = { ...text, primaryKey: true };

/**
 * The shelf of modules, how each did on which build, notes and pictures of steps, and the person's own days.
 */
export async function up(db: QueryInterface): Promise<void> {
  await db.createTable('modules', {
    sha256: key,
    moduleId: text,
    name: text,
    version: text,
    versionCode: maybeNumber,
    facts: text,
    fileName: text,
    sizeBytes: number,
    addedAt: number,
  });
  await db.createTable('module_trials', {
    id: key,
    module: text,
    moduleVersion: maybeText,
    fingerprint: text,
    handsetId: maybeText,
    roundId: maybeText,
    outcome: text,
    note: text,
    at: number,
  });
  await db.addIndex('module_trials', ['module', 'fingerprint']);
  await db.createTable('step_notes', {
    id: key,
    roundId: text,
    stepId: maybeText,
    text,
    picture: maybeText,
    mediaType: maybeText,
    at: number,
  });
  await db.addIndex('step_notes', ['roundId']);
  await db.createTable('calendar_entries', {
    uid: key,
    what: text,
    startsAt: number,
    endsAt: number,
    quiet: text,
    at: number,
  });
}
