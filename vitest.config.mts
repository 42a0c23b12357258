import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';
import { useTestFolder } from './scripts/test-folder.mjs';

useTestFolder();

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  resolve: { alias: { '@': here('./src'), 'server-only': here('./tests/empty-module.ts') } },
  test: {
    setupFiles: [here('./tests/setup.ts')],
    include: ['src/**/*.test.ts', 'tests/unit/**/*.test.ts'],
    testTimeout: 180_000,
    hookTimeout: 180_000,
    pool: 'forks',
    maxWorkers: 2,
  },
});
