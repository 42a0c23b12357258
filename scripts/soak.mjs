import { ensureInstalled, run } from './prepare.mjs';

/*
 * `npm run soak`: the tests that take chances, for long: hundreds of kills, ten thousand damaged copies of
 * each format, properties by the thousand.
 */

const seed = process.env.ETERNO_SEED ?? String(Math.floor(Math.random() * 2 ** 31));
process.stdout.write(`seed ${seed}; ETERNO_SEED=${seed} npm run soak does the same again\n`);
ensureInstalled();
run(
  process.execPath,
  ['node_modules/vitest/vitest.mjs', 'run', '--testTimeout', '7200000', ...process.argv.slice(2)],
  {
    env: { ...process.env, ETERNO_SOAK: '1', ETERNO_SEED: seed },
  },
);
process.stdout.write(`seed ${seed}\n`);
