import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync, mkdirSync, readdirSync } from 'node:fs';
import { createHash } from 'node:crypto';
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
  run('npm', ['ci', '--no-audit', '--no-fund']);
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
  const source = hashOf(sources.map((path) => `${path} ${statSync(path).size} ${hashOf(readFileSync(path))}`).join('\n'));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === source) return;
  run(process.execPath, [join('node_modules', 'next', 'dist', 'bin', 'next'), 'build'], { env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' } });
  mkdirSync('.next', { recursive: true });
  writeFileSync(stamp, source);
}

const CHROMIUM = '/usr/bin/chromium';

/** The browser for the tests, from the system's own packages. */
export function ensureChromium() {
  if (existsSync(CHROMIUM)) return;
  if (process.getuid?.() !== 0) {
    process.stderr.write('The browser tests need Chromium at /usr/bin/chromium. Install it with: sudo apt-get install chromium\n');
    process.exit(1);
  }
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  run('apt-get', ['update'], { env });
  run('apt-get', ['install', '-y', '--no-install-recommends', 'chromium'], { env });
}
