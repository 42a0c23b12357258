import { existsSync, statfsSync } from 'node:fs';

const MEMORY = '/dev/shm';
const NEEDED_BYTES = 2 * 1024 ** 3;

/**
 * Where tests put their stores: a folder in memory where the system has one with room, so that a thousand
 * flushes to disk cost nothing. Files, locks and renames are the same there; what a kill leaves behind too.
 */
export function chooseTestFolder() {
  if (process.env.TMPDIR || !existsSync(MEMORY)) return;
  const { bavail, bsize } = statfsSync(MEMORY);
  if (bavail * bsize >= NEEDED_BYTES) process.env.TMPDIR = MEMORY;
}
