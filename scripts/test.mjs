import { rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { COUNTS, countsOf, inTurn, PARTS } from './parts.mjs';
import { ensureChromium, ensureInstalled } from './prepare.mjs';

/*
 * `npm test` on a fresh checkout: installs what it needs, then everything else in two rows side by side,
 * since a machine of two cores is the smallest that is counted on. What a part prints is shown when it is
 * over; at the end stands how long each took, and the counts.
 */

const began = performance.now();
process.stdout.write('\n== install\n');
ensureInstalled();
ensureChromium();
const installed = performance.now();

const { lint, types, house, unit, build, browser } = PARTS;
const rows = [
  [unit, types, lint],
  [house, build, browser],
];
process.stdout.write(
  `\n== at work, side by side: ${rows.map((row) => row.map(({ name }) => name).join(', ')).join(' | ')}\n`,
);
const results = (await Promise.all(rows.map(inTurn))).flat();

const line = (name, seconds, note = '') =>
  process.stdout.write(`${name.padEnd(16)}${seconds.toFixed(0).padStart(6)} s${note}\n`);
process.stdout.write('\n== how long each part took\n');
line('install', (installed - began) / 1000);
for (const { name, ok, seconds } of results) line(name, seconds, ok ? '' : '   FAILS');
line('after install', (performance.now() - installed) / 1000);
process.stdout.write('\n== counts\n');
const total = { passed: 0, failed: 0, skipped: 0 };
for (const [name, file] of Object.entries(COUNTS)) {
  const counts = countsOf(file);
  process.stdout.write(
    `${`${name} tests`.padEnd(16)}${counts ? `${counts.passed} passed, ${counts.failed} failed, ${counts.skipped} skipped` : 'no count'}\n`,
  );
  for (const key of Object.keys(total)) total[key] += counts?.[key] ?? 0;
}
const broken = results.filter(({ ok }) => !ok).length;
process.stdout.write(
  `${total.passed} passed, ${Math.max(total.failed, broken)} failed, ${total.skipped} skipped\n`,
);
for (const file of Object.values(COUNTS)) rmSync(dirname(file), { recursive: true, force: true });
process.exit(broken === 0 && total.failed === 0 && total.passed > 0 ? 0 : 1);
