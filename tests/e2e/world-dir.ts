import { join } from 'node:path';

/** Where the world of the browser tests is made. */
export const WORLD_DIR = join('test-results', '.world');
