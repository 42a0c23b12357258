import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { join, resolve } from 'node:path';

/*
 * A whole Eterno on this machine: data migrated and made, the stand-in, then the server. Both are ended by
 * pid.
 */

export const DEMO_NOW = '2026-11-10T14:02:00Z';
const TSX = ['--conditions=react-server', '--import', 'tsx'];

export function environment(dataDir, extra = {}) {
  return {
    ...process.env,
    NEXT_TELEMETRY_DISABLED: '1',
    NODE_ENV: 'production',
    ETERNO_NOW: process.env.ETERNO_NOW ?? DEMO_NOW,
    ...extra,
    ETERNO_DATA: resolve(dataDir),
  };
}

function runOnce(script, env, ...args) {
  const result = spawnSync(process.execPath, [...TSX, script, ...args], { stdio: 'inherit', env });
  if (result.status !== 0) throw new Error(`${script} ended with ${result.status ?? result.signal}`);
}

/**
 * Migrates, and makes the demo world where it is not there yet. The clock stands a month back, when its first
 * images were kept.
 */
export function makeDemo(env) {
  runOnce('src/demo/make-demo.ts', { ...env, ETERNO_NOW: '2026-10-08T09:20:00Z' });
}

/** Makes a copy of a handset of another data folder, with the store and the shelves that belong to it. */
export function makeOwn(env, handsetId, from) {
  runOnce('src/demo/make-own.ts', env, handsetId, from);
}

export function migrate(env) {
  runOnce('src/server/db/migrate-command.ts', env);
}

/** Many handsets and years, for measuring. */
export function fillBench(env, handsets, months) {
  runOnce('scripts/fill-bench.ts', env, String(handsets), String(months));
}

export function freePort() {
  return new Promise((done) => {
    const server = createServer();
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => done(port));
    });
  });
}

async function until(what, child, seconds, check) {
  const end = Date.now() + seconds * 1000;
  while (Date.now() < end) {
    if (await check()) return;
    if (child.exitCode !== null) throw new Error(`${what} ended at once`);
    await new Promise((r) => setTimeout(r, 100));
  }
  throw new Error(`${what} did not come up within ${seconds} s`);
}

/** A verb of the command that runs until it is stopped; waits for its run file. */
async function startVerb(env, what, verb) {
  const child = spawn(process.execPath, ['--import', 'tsx', 'src/cli/eterno.ts', verb], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env,
  });
  await until(what, child, 60, () => {
    try {
      return JSON.parse(readFileSync(join(env.ETERNO_DATA, 'run', `${verb}.json`), 'utf8')).pid === child.pid;
    } catch {
      return false;
    }
  });
  return child;
}

/** Starts the stand-in of a data folder. */
export const startStandIn = (env) => startVerb(env, 'the stand-in', 'stand-in');

/** Starts the maker's download page of a data folder; null where it has none. */
export const startDownloadPage = (env) =>
  existsSync(join(env.ETERNO_DATA, 'download-page', 'page.json'))
    ? startVerb(env, 'the download page', 'download-page')
    : null;

/** Starts the server on 127.0.0.1 and waits until it answers. */
export async function startServer(env, port) {
  // what answers there would be taken for the server
  if (await listens(port))
    throw new Error(`Something else uses port ${port} already: choose another with PORT`);
  const child = spawn(process.execPath, ['scripts/serve.mjs', String(port)], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env,
  });
  await until('the server', child, 60, () =>
    fetch(`http://127.0.0.1:${port}/log`, { signal: AbortSignal.timeout(10_000) }).then(
      (response) => response.ok,
      () => false,
    ),
  );
  return child;
}

const TRIES = 3;

/** Starts the server on a port that is free; one that somebody takes in the meantime is let go. */
export async function startServerSomewhere(env) {
  for (let i = 1; ; i += 1) {
    const port = await freePort();
    try {
      return { port, server: await startServer(env, port) };
    } catch (error) {
      if (i === TRIES) throw error;
    }
  }
}

/** Ends the stand-in of a data folder by the pid in its run file, also one that the server started again. */
export async function stopStandIn(env) {
  const file = join(env.ETERNO_DATA, 'run', 'stand-in.json');
  if (!existsSync(file)) return;
  const { pid, handsets } = JSON.parse(readFileSync(file, 'utf8'));
  // a run file that was left behind may name a process that is somebody else's now
  if (!(await listens(handsets[0]?.systemPort))) return rmSync(file, { force: true });
  try {
    process.kill(pid, 'SIGTERM');
    for (let i = 0; i < 50 && existsSync(file); i += 1) await new Promise((r) => setTimeout(r, 100));
  } catch {
    // it was gone already
  }
}

const listens = (port) =>
  new Promise((done) => {
    if (!port) return done(false);
    const socket = connect(port, '127.0.0.1', () => done(true));
    socket.once('error', () => done(false)).once('connect', () => socket.destroy());
  });

export function stop(child) {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((done) => {
    const kill = setTimeout(() => child.kill('SIGKILL'), 5000);
    child.once('exit', () => {
      clearTimeout(kill);
      done();
    });
    child.kill('SIGTERM');
  });
}
