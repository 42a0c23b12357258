import { rmSync } from 'node:fs';
import { ensureBuilt, ensureInstalled } from './prepare.mjs';
import { environment, makeDemo, startServer, startStandIn, stop, stopStandIn } from './stack.mjs';

/*
 * `npm run demo`: installs, builds, migrates, makes the demo world, starts everything. `npm run demo --
 * --fresh` makes the world anew.
 */

ensureInstalled();
ensureBuilt();
const env = environment(process.env.ETERNO_DATA ?? 'data');
if (process.argv.includes('--fresh')) rmSync(env.ETERNO_DATA, { recursive: true, force: true });
try {
  makeDemo(env);
} catch {
  // it has said what is wrong
  process.exit(1);
}
const port = Number(process.env.PORT ?? 3210);
await startStandIn(env);
const server = await startServer(env, port).catch(async (error) => {
  await stopStandIn(env);
  throw error;
});
process.stdout.write(
  `\nEterno is at http://127.0.0.1:${port}\nPackages to open: ${env.ETERNO_DATA}/packages\nStop with Ctrl+C; the state is kept.\n`,
);

let ending = false;
async function end() {
  if (ending) return;
  ending = true;
  await Promise.all([stop(server), stopStandIn(env)]);
  process.exit(0);
}
process.on('SIGINT', end);
process.on('SIGTERM', end);
