import 'server-only';
import type { QueryInterface } from 'sequelize';

/**
 * The bench reads every handset at once: events by kind, the newest facts, and when steps of some kinds were
 * begun.
 */
export async function up(db: QueryInterface): Promise<void> {
  await db.addIndex('events', ['kind', 'handsetId', 'at']);
  await db.addIndex('facts', ['handsetId', 'key', 'witness', 'at']);
  await db.removeIndex('facts', ['handsetId', 'key', 'at']);
  await db.addIndex('steps', ['key', 'startedAt', 'roundId']);
}
