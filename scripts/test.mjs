import { ensureBuilt, ensureChromium, ensureInstalled, run } from './prepare.mjs';

/* `npm test` on a fresh checkout: installs what it needs, then lint, types, house rules, unit tests, build, browser tests. */

const step = (name) => process.stdout.write(`\n== ${name}\n`);
const bin = (name, ...args) => run(process.execPath, [`node_modules/${name}`, ...args], { env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' } });

step('install');
ensureInstalled();
ensureChromium();
step('lint');
bin('eslint/bin/eslint.js', '.', '--max-warnings', '0');
bin('prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.');
step('types');
bin('typescript/bin/tsc', '-p', '.');
bin('typescript/bin/tsc', '-p', 'src/core', '--noEmit');
step('house rules');
run(process.execPath, ['scripts/house-rules.mjs']);
step('unit tests');
bin('vitest/vitest.mjs', 'run');
step('build');
ensureBuilt();
step('browser tests');
bin('@playwright/test/cli.js', 'test');
