import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { betweenFolders, circlesIn, importsOf } from './import-cycles.mjs';

/*
 * Rules of the house that no linter holds (docs/architecture.md). Prints what breaks them; exits 1 when
 * anything does.
 */

const files = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard'], {
  encoding: 'utf8',
})
  .split('\n')
  .filter((name) => name !== '' && name !== 'package-lock.json');
const broken = [];
const text = (name) => readFileSync(name, 'utf8');
const lines = (name) => text(name).split('\n').length - 1;

for (const name of files) {
  const base = name.split('/').at(-1);
  if (/\.(ts|tsx|mjs|mts|css)$/.test(name) && !/^[a-z0-9.-]+$/.test(base))
    broken.push(`${name}: files are named in kebab-case`);
  if (/\.(ts|tsx)$/.test(name) && !/\.test\.ts$/.test(name) && lines(name) > 400)
    broken.push(`${name}: ${lines(name)} lines, think at 400`);
  if (/^src\/app\/.*\.(ts|tsx)$/.test(name) && lines(name) > 40)
    broken.push(`${name}: ${lines(name)} lines; routes have 40 at most`);
  if (/^src\/.*\/(index|utils|types|helpers)\.tsx?$/.test(name)) broken.push(`${name}: no barrels, no heaps`);
  if (!/\.(ts|tsx|mjs|mts|css|md|json|svg)$/.test(name)) continue;
  const content = text(name);
  if (
    /^src\/.*\.tsx?$/.test(name) &&
    /export default /.test(content) &&
    !/^src\/app\//.test(name) &&
    !name.endsWith('.d.ts')
  )
    broken.push(`${name}: named exports only`);
  if (
    /^src\/server\//.test(name) &&
    !/import 'server-only'/.test(content) &&
    !name.endsWith('migrate-command.ts')
  )
    broken.push(`${name}: server code says so with 'server-only'`);
  if (
    /^src\/core\//.test(name) &&
    !/\.test\.ts$/.test(name) &&
    /\b(console|Math\.random|Date\.now|new Date\(\)|crypto\.(getRandom|randomUUID|subtle))/.test(content)
  ) {
    broken.push(`${name}: core has no clock, no chance and no console`);
  }
  if (/^src\//.test(name) && /https?:\/\/(?!127\.0\.0\.1|localhost|www\.w3\.org|\$\{host\})/.test(content))
    broken.push(`${name}: nothing outside this machine is ever asked`);
  if (/TODO|FIXME|XXX/.test(content) && name !== 'scripts/house-rules.mjs')
    broken.push(`${name}: an open end in a comment`);
  if (/\.(skip|only)\(/.test(content) && /\.(test|spec)\.ts$/.test(name))
    broken.push(`${name}: a test is skipped, or the only one`);
}
const imports = importsOf(files.filter((name) => /\.(ts|tsx|mts|mjs)$/.test(name)));
for (const circle of circlesIn(imports))
  broken.push(`${circle.join(' ⇄ ')}: files that import each other in a circle`);
/** A folder of core, or one format; tests and core's own files do not count. */
const coreFolder = (name) =>
  /\.test\.ts$/.test(name) ? null : (/^src\/core\/(formats\/[^/]+|[^/]+)\//.exec(name)?.[1] ?? null);
for (const circle of circlesIn(betweenFolders(imports, coreFolder)))
  broken.push(`src/core/{${circle.join(', ')}}: folders of core that import each other in a circle`);
const pictures = files.filter((name) => /^docs\/screenshots\/.*\.png$/.test(name));
if (pictures.length >= 20) broken.push(`docs/screenshots: ${pictures.length} pictures, under 20 are kept`);
for (const name of pictures)
  if (!text('README.md').includes(name)) broken.push(`${name}: not linked from the README`);

if (broken.length > 0) {
  process.stderr.write(`${broken.join('\n')}\n`);
  process.exit(1);
}
process.stdout.write(`house rules hold in ${files.length} files\n`);
