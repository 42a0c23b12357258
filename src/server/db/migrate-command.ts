import { closeDatabase } from './connection';
import { migrate } from './migrate';

const done = await migrate();
process.stdout.write(done.length > 0 ? `migrated: ${done.join(', ')}\n` : 'the database is up to date\n');
await closeDatabase();
