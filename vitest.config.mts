import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  resolve: { alias: { '@': here('./src'), 'server-only': here('./tests/empty-module.ts') } },
  test: { include: ['src/**/*.test.ts', 'tests/unit/**/*.test.ts'], testTimeout: 180_000, pool: 'forks', maxWorkers: 2 },
});
