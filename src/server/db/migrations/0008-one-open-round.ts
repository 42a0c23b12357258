import 'server-only';
import type { QueryInterface } from 'sequelize';

/**
 * One open round a handset, whoever starts it. Where an earlier version let two tabs start two, the newest
 * stays open and the others are given up.
 */
export async function up(db: QueryInterface): Promise<void> {
  await db.sequelize.query(`
    UPDATE rounds SET state = 'given-up', closedAt = openedAt
    WHERE state = 'open' AND EXISTS (
      SELECT 1 FROM rounds AS later
      WHERE later.handsetId = rounds.handsetId AND later.state = 'open'
        AND (later.openedAt > rounds.openedAt OR (later.openedAt = rounds.openedAt AND later.id > rounds.id))
    )`);
  await db.addIndex('rounds', ['handsetId'], {
    unique: true,
    name: 'rounds_one_open_a_handset',
    where: { state: 'open' },
  });
}
