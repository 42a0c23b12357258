import { toEternoError } from '@/core/errors';
import { closeDatabase } from './connection';
import { migrate } from './migrate';

/**
 * `tsx src/server/db/migrate-command.ts`: migrates the database of `ETERNO_DATA` and says what it did; what
 * is wrong is one sentence.
 */
try {
  process.umask(0o077);
  const done = await migrate();
  process.stdout.write(done.length === 0 ? 'the database is up to date\n' : `migrated: ${done.join(', ')}\n`);
} catch (thrown) {
  const error = toEternoError(thrown);
  process.stderr.write(`${error.code === 'internal' ? (error.stack ?? error.message) : error.message}\n`);
  process.exitCode = 1;
} finally {
  await closeDatabase().catch(() => undefined);
}
