import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { toEternoError } from '@/core/errors';
import { closeDatabase } from '@/server/db/connection';
import { dataDir } from '@/server/db/data-dir';
import { makeOwnWorld } from './own-world';

/* `make-own HANDSET FOLDER`: a world of practice with a copy of a handset of another data folder. */

const [handsetId, from] = process.argv.slice(2);
const packages = join(dataDir(), 'packages');
await mkdir(packages, { recursive: true });
try {
  await makeOwnWorld({ handsetId: handsetId!, from: from!, dataDir: dataDir(), packages });
} catch (thrown) {
  process.stderr.write(`${toEternoError(thrown).message}\n`);
  process.exitCode = 1;
}
await closeDatabase();
