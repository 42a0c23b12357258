import { rmSync } from 'node:fs';
import { ensureBuilt, ensureInstalled } from './prepare.mjs';
import {
  environment,
  makeDemo,
  startDownloadPage,
  startServer,
  startStandIn,
  stop,
  stopStandIn,
} from './stack.mjs';

/*
 * `npm run demo`: installs, builds, migrates, makes the demo world, starts everything. `npm run demo --
 * --fresh` makes the world anew; `--way N` makes one with a single handset at the beginning of piece of work N,
 * in a folder of its own, anew each time.
 */

ensureInstalled();
const at = process.argv.indexOf('--way');
const way = at < 0 ? null : process.argv[at + 1];
if (way !== null && !/^\d{1,2}$/.test(way ?? '')) {
  process.stderr.write('--way wants the number of a piece of work, such as --way 4\n');
  process.exit(2);
}
const env =
  way === null
    ? environment(process.env.ETERNO_DATA ?? 'data')
    : environment(process.env.ETERNO_DATA ?? `data-way-${way}`, { ETERNO_DEMO_WAY: way });
if (way !== null || process.argv.includes('--fresh'))
  rmSync(env.ETERNO_DATA, { recursive: true, force: true });
ensureBuilt();
try {
  makeDemo(env);
} catch {
  // it has said what is wrong
  process.exit(1);
}
const port = Number(process.env.PORT ?? 3210);
await startStandIn(env);
const page = await startDownloadPage(env);
const server = await startServer(env, port).catch(async (error) => {
  await Promise.all([stopStandIn(env), page ? stop(page) : null]);
  throw error;
});
process.stdout.write(
  `\nEterno is at http://127.0.0.1:${port}\nPackages to open: ${env.ETERNO_DATA}/packages\nStop with Ctrl+C; the state is kept.\n`,
);

let ending = false;
async function end() {
  if (ending) return;
  ending = true;
  await Promise.all([stop(server), stopStandIn(env), page ? stop(page) : null]);
  process.exit(0);
}
process.on('SIGINT', end);
process.on('SIGTERM', end);
