import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  environment,
  makeDemo,
  makeOwn,
  startDownloadPage,
  startServerSomewhere,
  startStandIn,
  stop,
  stopStandIn,
} from './stack.mjs';

/*
 * A world of practice, with a store, a stand-in, a download page and a server of its own:
 * `node scripts/practice.mjs FOLDER`, with what it is about in ETERNO_PRACTICE as JSON. It says where it is in
 * FOLDER/run/practice.json, and ends with whoever started it; then
 * nothing of it is left.
 */

const folder = process.argv[2];
const { work, pace, faults, surprises, own, since } = JSON.parse(process.env.ETERNO_PRACTICE);
const env = environment(folder, {
  ...(own ? { ETERNO_NOW: new Date(since).toISOString() } : { ETERNO_DEMO_WAY: String(work) }),
  ETERNO_STAND_IN_SPEED: String(pace),
});

let [server, page] = [null, null];
let ending = false;
async function end(code) {
  if (ending) return;
  ending = true;
  await Promise.all([server ? stop(server) : null, page ? stop(page) : null, stopStandIn(env)]);
  // a copy of somebody's own records is not left lying about
  rmSync(folder, { recursive: true, force: true });
  process.exit(code);
}
process.on('SIGTERM', () => void end(0));
process.on('SIGINT', () => void end(0));
// whoever started it holds the other end, and lets go of it however they end
process.stdin.on('end', () => void end(0)).resume();

/** Written beside it and moved, so that nobody reads half of it. */
function writeWhole(path, value) {
  writeFileSync(`${path}.part`, JSON.stringify(value));
  renameSync(`${path}.part`, path);
}

/** The first of the faults that this handset can have; which one nobody is told. */
async function putFault(url, profile) {
  for (const fault of faults) {
    const put = await fetch(`${url}/api/stand-in/fault`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: url },
      body: JSON.stringify({ profile, fault }),
    });
    if (put.ok) return fault;
  }
  throw new Error('this handset can have none of the faults');
}

/** What is to come over it waits in it. */
function putSurprises() {
  if (surprises.length === 0) return;
  const [profile] = readdirSync(join(folder, 'stand-in'));
  writeWhole(join(folder, 'stand-in', profile, 'surprises.json'), { waiting: surprises, came: [] });
}

try {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'run'), { recursive: true, mode: 0o700 });
  if (own) makeOwn(env, own.handsetId, own.from);
  else makeDemo(env);
  putSurprises();
  await startStandIn(env);
  page = await startDownloadPage(env);
  const started = await startServerSomewhere(env);
  server = started.server;
  const url = `http://127.0.0.1:${started.port}`;
  const { handsets } = JSON.parse(readFileSync(join(folder, 'run', 'stand-in.json'), 'utf8'));
  const fault = faults.length > 0 ? await putFault(url, handsets[0].profile) : null;
  writeWhole(join(folder, 'run', 'practice.json'), { pid: process.pid, url, fault });
} catch (error) {
  process.stderr.write(`${error.message}\n`);
  await end(1);
}
