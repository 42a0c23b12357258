import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/* What `npm test` is made of. Each part can also be run alone, by its script in package.json. */

const node = (path, ...args) => [process.execPath, [`node_modules/${path}`, ...args]];

const folder = mkdtempSync(join(tmpdir(), 'eterno-counts-'));
/** Files in which the runners leave their counts. */
export const COUNTS = { unit: join(folder, 'unit.json'), browser: join(folder, 'browser.json') };

/**
 * @typedef {{ name: string, commands: [string, string[]][] }} Part
 * @type {Record<string, Part>}
 */
export const PARTS = {
  lint: {
    name: 'lint',
    commands: [
      node('eslint/bin/eslint.js', '.', '--max-warnings', '0'),
      node('prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.'),
    ],
  },
  types: {
    name: 'types',
    commands: [
      node('typescript/bin/tsc', '-p', '.'),
      node('typescript/bin/tsc', '-p', 'src/core', '--noEmit'),
    ],
  },
  house: { name: 'house rules', commands: [[process.execPath, ['scripts/house-rules.mjs']]] },
  unit: {
    name: 'unit tests',
    commands: [
      node(
        'vitest/vitest.mjs',
        'run',
        '--reporter=default',
        '--reporter=json',
        `--outputFile.json=${COUNTS.unit}`,
      ),
    ],
  },
  build: { name: 'build', commands: [[process.execPath, ['scripts/build.mjs']]] },
  browser: {
    name: 'browser tests',
    commands: [node('@playwright/test/cli.js', 'test', '--reporter=list,json')],
  },
};

const seconds = (from) => (performance.now() - from) / 1000;

/**
 * Runs one part; what it prints is kept together and shown when it is over.
 * @returns {Promise<{ name: string, ok: boolean, seconds: number }>}
 */
export async function runPart({ name, commands }) {
  const began = performance.now();
  const said = [];
  let ok = true;
  for (const [command, args] of commands) {
    const child = spawn(command, args, {
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', PLAYWRIGHT_JSON_OUTPUT_FILE: COUNTS.browser },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    child.stdout.on('data', (bytes) => said.push(bytes));
    child.stderr.on('data', (bytes) => said.push(bytes));
    const code = await new Promise((resolve) =>
      child
        .on('error', (thrown) => resolve(said.push(Buffer.from(`${thrown.message}\n`))))
        .on('close', resolve),
    );
    if (code !== 0) {
      said.push(Buffer.from(`${[command, ...args].join(' ')} ended with ${code}\n`));
      ok = false;
      break;
    }
  }
  const took = seconds(began);
  process.stdout.write(`\n== ${name}: ${ok ? 'holds' : 'FAILS'}, ${took.toFixed(0)} s\n`);
  process.stdout.write(Buffer.concat(said));
  return { name, ok, seconds: took };
}

/** Runs parts one after the other. */
export async function inTurn(parts) {
  const results = [];
  for (const part of parts) results.push(await runPart(part));
  return results;
}

/**
 * How many tests passed, failed and were left out, as the runners wrote it down; nothing where a runner never
 * came so far.
 */
export function countsOf(file) {
  try {
    const report = JSON.parse(readFileSync(file, 'utf8'));
    if (report.stats)
      return {
        passed: report.stats.expected,
        failed: report.stats.unexpected + report.stats.flaky,
        skipped: report.stats.skipped,
      };
    return {
      passed: report.numPassedTests,
      failed: report.numFailedTests,
      skipped: report.numPendingTests + report.numTodoTests,
    };
  } catch {
    return null;
  }
}
