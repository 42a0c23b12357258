import { randomBytes } from 'node:crypto';
import { mkdir, readdir, rm } from 'node:fs/promises';
import type { Server, Socket } from 'node:net';
import { join } from 'node:path';
import type { Clock } from '@/core/clock';
import { EternoError } from '@/core/errors';
import { writeFileWhole } from '@/platform/node/file-sink';
import { HandsetHost } from './handset-host';
import { StandInStore } from './stand-in-store';
import { createSystemServer } from './system-server';
import { createWireServer } from './wire-server';

/** One simulated handset of the process and its two ports on this machine. */
export interface StandInPorts {
  readonly profile: string;
  readonly wirePort: number;
  readonly systemPort: number;
}

/** What the run file says, for those on this machine that may read it. */
export interface StandInRun {
  readonly pid: number;
  readonly token: string;
  readonly handsets: readonly StandInPorts[];
}

export interface StandInOptions {
  /** Eterno's data folder. */
  readonly dataDir: string;
  /** Which of the handsets that were made; all of them where null. */
  readonly profile: string | null;
  /** 0 takes a free port; it is the first handset's, all others take free ones. */
  readonly wirePort: number;
  /** Its own times pass on this one. */
  readonly clock: Clock;
  /** How long its keys are held passes on this one; as quickly as its own times where none is named. */
  readonly hands?: Clock | null;
}

export interface RunningStandIn {
  readonly run: StandInRun;
  close(): Promise<void>;
}

export const runFilePath = (dataDir: string) =>
  join(/*turbopackIgnore: true*/ dataDir, 'run', 'stand-in.json');

function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve((server.address() as { port: number }).port));
  });
}

async function madeProfiles(dataDir: string): Promise<readonly string[]> {
  const names = await readdir(join(dataDir, 'stand-in')).catch(() => [] as string[]);
  if (names.length === 0)
    throw new EternoError('not-found', 'no stand-in was made yet; make the demo data first');
  return names.filter((name) => /^[a-z0-9-]{1,40}$/.test(name)).sort();
}

/**
 * Starts simulated handsets, each on two loopback ports.
 * @throws {EternoError} `not-found` where a profile was never made
 */
export async function runStandIn({
  dataDir,
  profile,
  wirePort,
  clock,
  hands = null,
}: StandInOptions): Promise<RunningStandIn> {
  const token = randomBytes(24).toString('hex');
  const hosts: HandsetHost[] = [];
  const servers: Server[] = [];
  const connected = new Set<Socket>();
  const handsets: StandInPorts[] = [];
  for (const name of profile === null ? await madeProfiles(dataDir) : [profile]) {
    const store = new StandInStore(join(dataDir, 'stand-in', name));
    await store.sweep();
    const host = await HandsetHost.open(store, { clock, hands });
    const [wire, system] = [createWireServer(host), createSystemServer(host, token)];
    for (const server of [wire, system])
      server.on('connection', (socket) =>
        connected.add(socket.once('close', () => connected.delete(socket))),
      );
    const ports = {
      wirePort: await listen(wire, handsets.length === 0 ? wirePort : 0),
      systemPort: await listen(system, 0),
    };
    hosts.push(host);
    servers.push(wire, system);
    handsets.push({ profile: name, ...ports });
  }
  const run: StandInRun = { pid: process.pid, token, handsets };
  await mkdir(join(dataDir, 'run'), { recursive: true, mode: 0o700 });
  await writeFileWhole(runFilePath(dataDir), new TextEncoder().encode(JSON.stringify(run)));
  return {
    run,
    async close() {
      for (const server of servers) server.close();
      // who is watching would wait for ever, and keep this process with it
      for (const socket of connected) socket.destroy();
      for (const host of hosts) await host.close();
      await rm(runFilePath(dataDir), { force: true });
    },
  };
}
