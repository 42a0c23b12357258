import { execFileSync, spawn } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { importsOf } from './import-cycles.mjs';
import { compiler, mutantsOf, planted } from './mutants.mjs';
import { ensureInstalled } from './prepare.mjs';

/*
 * `npm run mutate`: plants small faults, each in a copy of the checkout, and runs the tests nearest to it. A
 * fault that no test sees is a hole in the proof. The same seed plants the same faults. Nothing of the
 * checkout itself is ever changed.
 */

const AREAS = {
  gates: { folders: ['src/core/gates/'], count: 9 },
  planning: { folders: ['src/core/planning/'], count: 10 },
  handset: { folders: ['src/core/handset/'], count: 10 },
  patch: { folders: ['src/core/patch/'], count: 9 },
  formats: { folders: ['src/core/formats/'], count: 9 },
  practice: { folders: ['src/core/practice/'], count: 8 },
  rounds: { folders: ['src/core/rounds/', 'src/core/bench/'], count: 12 },
  services: { folders: ['src/server/services/', 'src/server/rounds/'], count: 14 },
};
const { values } = parseArgs({
  options: {
    seed: { type: 'string', default: '20261128' },
    only: { type: 'string', default: '' },
    count: { type: 'string', default: '60' },
    list: { type: 'boolean' },
  },
});
/** At once, one a core. */
const ROWS = 2;
const MOST_TESTS = 14;
const MOST_SECONDS = 600;
const MOST_SECONDS_OTHERS = 1800;

function numbers(seed) {
  let x = seed >>> 0 || 1;
  return (below) => {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    return (x >>> 0) % below;
  };
}

ensureInstalled();
const files = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard'], {
  encoding: 'utf8',
})
  .split('\n')
  .filter((name) => name !== '');
const code = files.filter((name) => /^(src|tests)\/.*\.tsx?$/.test(name));
const isTest = (name) => /\.test\.ts$/.test(name);
const importers = new Map(code.map((name) => [name, []]));

const imports = importsOf(code);
for (const [from, targets] of imports) for (const target of targets) importers.get(target)?.push(from);

/** How many files a test reaches: one of few is about them. */
const reaches = new Map();
function reachOf(test) {
  if (!reaches.has(test)) {
    const seen = new Set([test]);
    for (const name of seen) for (const target of imports.get(name) ?? []) seen.add(target);
    reaches.set(test, seen.size);
  }
  return reaches.get(test);
}

/**
 * The test files that reach a file: those over the fewest imports first, of those alike the ones that reach
 * least. The nearest are run first, all others where those see nothing.
 */
function testsOf(file) {
  const seen = new Set([file]);
  const found = [];
  for (let row = [file]; row.length > 0; row = row.filter((name) => !isTest(name))) {
    const next = row.flatMap((name) => importers.get(name) ?? []).filter((name) => !seen.has(name));
    row = [...new Set(next)].sort();
    for (const name of row) seen.add(name);
    found.push(...row.filter(isTest).sort((a, b) => reachOf(a) - reachOf(b)));
  }
  return { near: found.slice(0, MOST_TESTS), others: found.slice(MOST_TESTS) };
}

const compiles = compiler();

/** So many of an area's mutants that compile, from all its files alike. */
function chosen(area, { folders, count }, next) {
  const all = code
    .filter((name) => folders.some((folder) => name.startsWith(folder)) && !isTest(name))
    .flatMap(mutantsOf);
  const picked = [];
  while (picked.length < count && all.length > 0) {
    const [one] = all.splice(next(all.length), 1);
    if (picked.filter((other) => other.file === one.file).length < 3 && compiles(one))
      picked.push({ area, ...one, ...testsOf(one.file) });
  }
  return picked;
}

function where({ file, start, end, text, kind }) {
  const content = readFileSync(file, 'utf8');
  const line = content.slice(0, start).split('\n').length;
  const short = (words) => words.replace(/\s+/g, ' ').slice(0, 90);
  return `${file}:${line}, ${kind}: ${short(content.slice(start, end))} → ${short(text) || 'nothing'}`;
}

const folder = mkdtempSync(join(tmpdir(), 'eterno-mutate-'));
const running = new Set();
function stop(code) {
  for (const child of running) child.kill('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
  process.exit(code);
}
process.on('SIGINT', () => stop(130));

/** A checkout of its own for a row. */
function copyFor(row) {
  const dir = join(folder, String(row));
  for (const name of files) {
    mkdirSync(dirname(join(dir, name)), { recursive: true });
    cpSync(name, join(dir, name));
  }
  symlinkSync(resolve('node_modules'), join(dir, 'node_modules'));
  return dir;
}

/** @returns {Promise<'green' | 'red' | 'late'>} how the tests end; `late` says nothing of the fault */
function green(dir, tests, workers = 1, mostSeconds = MOST_SECONDS) {
  return new Promise((done) => {
    const child = spawn(
      process.execPath,
      ['node_modules/vitest/vitest.mjs', 'run', '--bail', '1', '--maxWorkers', String(workers), ...tests],
      {
        cwd: dir,
        stdio: 'ignore',
        detached: true,
      },
    );
    running.add(child);
    let isLate = false;
    const late = setTimeout(() => {
      isLate = true;
      process.kill(-child.pid, 'SIGKILL');
    }, mostSeconds * 1000);
    child.on('close', (status) => {
      clearTimeout(late);
      running.delete(child);
      done(isLate ? 'late' : status === 0 ? 'green' : 'red');
    });
  });
}

const began = performance.now();
const next = numbers(Number(values.seed));
const scale = Number(values.count) / 60;
const mutants = Object.entries(AREAS)
  .filter(([area]) => values.only === '' || values.only.split(',').includes(area))
  .flatMap(([area, about]) =>
    chosen(area, { ...about, count: Math.max(1, Math.round(about.count * scale)) }, next),
  );
process.stdout.write(
  `seed ${values.seed}: ${mutants.length} faults; each runs the ${MOST_TESTS} nearest tests, and all others that reach it where those see nothing\n`,
);
if (values.list) {
  for (const mutant of mutants) process.stdout.write(`${where(mutant)}\n    ${mutant.near.join(' ')}\n`);
  stop(0);
}
const untested = mutants.filter(({ near }) => near.length === 0);
const waiting = mutants.filter(({ near }) => near.length > 0);
const survivors = [...untested];
const caught = [];
const ran = [];
await Promise.all(
  Array.from({ length: ROWS }, async (_one, row) => {
    const dir = copyFor(row);
    for (let mutant = waiting.shift(); mutant; mutant = waiting.shift()) {
      const path = join(dir, mutant.file);
      const content = readFileSync(path, 'utf8');
      const since = performance.now();
      writeFileSync(path, planted(content, mutant));
      let ended = await green(dir, mutant.near);
      ran.push(...mutant.near);
      if (ended === 'green' && mutant.others.length > 0) {
        ended = await green(dir, mutant.others, 1, MOST_SECONDS_OTHERS);
        ran.push(...mutant.others);
      }
      const unseen = ended !== 'red';
      writeFileSync(path, content);
      (unseen ? survivors : caught).push(mutant);
      process.stdout.write(
        `${{ green: 'NOT SEEN', late: 'TOO LATE', red: 'caught  ' }[ended]} ${((performance.now() - since) / 1000).toFixed(0).padStart(4)} s  ${where(mutant)}\n`,
      );
    }
  }),
);
// a catch means something only where the same tests are green without the fault
const all = [...new Set(ran)];
const sound =
  all.length === 0 || (await green(join(folder, '0'), all, ROWS, MOST_SECONDS_OTHERS)) === 'green';
process.stdout.write(`\n${((performance.now() - began) / 60_000).toFixed(1)} min\n`);
for (const [area] of Object.entries(AREAS)) {
  const [seen, missed] = [caught, survivors].map((list) => list.filter((one) => one.area === area).length);
  if (seen + missed > 0) process.stdout.write(`${area.padEnd(10)} ${seen} of ${seen + missed} caught\n`);
}
process.stdout.write(`${'all'.padEnd(10)} ${caught.length} of ${mutants.length} caught\n`);
for (const mutant of survivors) process.stdout.write(`not seen: ${where(mutant)}\n`);
if (!sound) process.stdout.write('The tests are not green without a fault: what was caught means nothing.\n');
stop(sound ? 0 : 1);
