import { createHash } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { connect, createServer as createLock } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import next from 'next';
import { doorHeaders, isLocalRequest } from '../src/platform/node/local-request.mjs';

/*
 * The front door: `node scripts/serve.mjs PORT` serves the built application on 127.0.0.1. Every request is
 * looked at here first, whatever its path; what is no request but a wish for another protocol is ended. One
 * server works on a store at a time.
 */

const port = Number(process.argv[2]);
const dataDir = process.env.ETERNO_DATA;
const LONGEST_SOCKET_PATH = 100;
/**
 * A request that has not come whole in this time is ended: uploads of gigabytes from the same machine take
 * less.
 */
const REQUEST_MS = 30 * 60_000;

/** What has not ended by then is found half done by the next start. */
const END_MS = 3000;

/**
 * Where the store's lock is: a local socket, which ends with the process that holds it, however that ends.
 */
function lockPath() {
  const path = join(dataDir, 'run', 'server.sock');
  return path.length <= LONGEST_SOCKET_PATH
    ? path
    : join(tmpdir(), `eterno-${createHash('sha256').update(path).digest('hex').slice(0, 16)}.sock`);
}

const answers = (path) =>
  new Promise((done) => {
    const socket = connect(path);
    socket.once('connect', () => done(true)).once('error', () => done(false));
    socket.once('connect', () => socket.destroy());
  });

/** Holds the store for this process. Ends it where another holds it. */
async function holdStore() {
  mkdirSync(join(dataDir, 'run'), { recursive: true, mode: 0o700 });
  const path = lockPath();
  if (await answers(path)) {
    process.stderr.write(
      `Another Eterno works on ${dataDir} already. Stop it first, or give this one a folder of its own with ETERNO_DATA.\n`,
    );
    process.exit(1);
  }
  rmSync(path, { force: true });
  const lock = createLock((socket) => socket.destroy());
  await new Promise((done, fail) => lock.once('error', fail).listen(path, done));
}

// what is kept here is for the person whose machine this is, and nobody else on it
process.umask(0o077);
await holdStore();
const app = next({ dev: false, hostname: '127.0.0.1', port });
await app.prepare();
const handle = app.getRequestHandler();
const server = createServer((request, response) => {
  const path = request.url ?? '/';
  if (/%00/.test(path)) {
    response
      .writeHead(400, { 'content-type': 'text/plain; charset=utf-8' })
      .end('An address holds no such character.\n');
    request.resume();
    return;
  }
  for (const [name, value] of Object.entries(doorHeaders(path))) response.setHeader(name, value);
  const headers = { get: (name) => [request.headers[name]].flat()[0] ?? null };
  if (!isLocalRequest(headers, path)) {
    response
      .writeHead(403, { 'content-type': 'text/plain; charset=utf-8' })
      .end('Eterno answers only on this machine, and only its own pages.\n');
    request.resume();
    return;
  }
  void handle(request, response);
});
server.requestTimeout = REQUEST_MS;
// no other protocol is spoken here
server.on('upgrade', (_request, socket) => socket.destroy());
// Next keeps a process alive whatever it throws: what can't listen has to end by itself
server.once('error', (error) => {
  process.stderr.write(`Eterno can’t listen on port ${port}: ${error.message}
`);
  process.exit(1);
});
server.listen(port, '127.0.0.1');

const end = () => {
  server.close(() => process.exit(0));
  // what is still open is an event stream, or will be found half done by the next start
  server.closeAllConnections();
  setTimeout(() => process.exit(0), END_MS);
};
process.on('SIGTERM', end);
process.on('SIGINT', end);
