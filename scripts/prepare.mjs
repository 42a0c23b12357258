import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync, mkdirSync, readdirSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';

/* What a fresh checkout needs before anything can run. Plain Node: nothing is installed yet. */

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', ...options });
  if (result.status !== 0) {
    process.stderr.write(`${[command, ...args].join(' ')} ended with ${result.status ?? result.signal}\n`);
    process.exit(result.status || 1);
  }
}

const hashOf = (text) => createHash('sha256').update(text).digest('hex');

/** Installs what the lockfile names, if that was not done yet. */
export function ensureInstalled() {
  const stamp = join('node_modules', '.eterno-lock');
  const lock = hashOf(readFileSync('package-lock.json'));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  // SQLite is one huge file of C: compiled for this machine with the first level of optimisation it is there
  // in half the time, and no slower to a person; the other files are compiled beside it
  const quick = { CFLAGS: '-O1', CXXFLAGS: '-O1', JOBS: String(availableParallelism()) };
  run('npm', ['ci', '--no-audit', '--no-fund'], { env: { ...quick, ...process.env } });
  writeFileSync(stamp, lock);
}

function* files(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else yield path;
  }
}

/** Builds the application, if its sources changed since the last build. */
export function ensureBuilt() {
  const stamp = join('.next', '.eterno-source');
  const sources = [...files('src'), 'next.config.ts', 'package-lock.json', 'tsconfig.json'].sort();
  const source = hashOf(
    sources.map((path) => `${path} ${statSync(path).size} ${hashOf(readFileSync(path))}`).join('\n'),
  );
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === source) return;
  run(process.execPath, [join('node_modules', 'next', 'dist', 'bin', 'next'), 'build'], {
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
  });
  mkdirSync('.next', { recursive: true });
  writeFileSync(stamp, source);
}

/** The browser that the tests drive: the system's own, or another that was named. */
export const CHROMIUM = process.env.ETERNO_CHROMIUM ?? '/usr/bin/chromium';

/** The browser for the tests, from the system's own packages. */
export function ensureChromium() {
  if (existsSync(CHROMIUM)) return;
  if (process.env.ETERNO_CHROMIUM || process.getuid?.() !== 0) {
    process.stderr.write(
      `The browser tests drive Chromium, and there is none at ${CHROMIUM}. Nothing was tested yet. Ask whoever may install software here for ` +
        '“apt-get install chromium”, or name a Chromium that you have: ETERNO_CHROMIUM=/path/to/chromium npm test\n',
    );
    process.exit(1);
  }
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  run('apt-get', ['update'], { env });
  run('apt-get', ['install', '-y', '--no-install-recommends', 'chromium'], { env });
}
