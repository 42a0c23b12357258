import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';
import { chooseTestFolder } from './scripts/test-folder.mjs';

chooseTestFolder();

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  resolve: { alias: { '@': here('./src'), 'server-only': here('./tests/empty-module.ts') } },
  test: {
    setupFiles: [here('./tests/setup.ts')],
    include: ['src/**/*.test.ts', 'tests/unit/**/*.test.ts'],
    testTimeout: 600_000,
    hookTimeout: 600_000,
    pool: 'forks',
    // what a file of tests opens it closes: the modules of one serve the next
    isolate: false,
    maxWorkers: 2,
  },
});
