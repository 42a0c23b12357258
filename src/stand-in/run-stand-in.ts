import { randomBytes } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import type { Server } from 'node:net';
import { join } from 'node:path';
import { writeFileWhole } from '@/platform/node/file-sink';
import { HandsetHost } from './handset-host';
import { StandInStore } from './stand-in-store';
import { createSystemServer } from './system-server';
import { createWireServer } from './wire-server';

/** What the run file says, for those on this machine that may read it. */
export interface StandInRun {
  readonly pid: number;
  readonly profile: string;
  readonly wirePort: number;
  readonly systemPort: number;
  readonly token: string;
}

export interface StandInOptions {
  /** Eterno's data folder. */
  readonly dataDir: string;
  readonly profile: string;
  /** 0 takes a free port; the system link takes another free one. */
  readonly wirePort: number;
  /** Divides the handset's own times. */
  readonly speed: number;
}

export interface RunningStandIn {
  readonly run: StandInRun;
  close(): Promise<void>;
}

export const runFilePath = (dataDir: string) => join(/*turbopackIgnore: true*/ dataDir, 'run', 'stand-in.json');

function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve((server.address() as { port: number }).port));
  });
}

/** Starts the simulated handset on two loopback ports. @throws {EternoError} `not-found` where the profile was never made */
export async function runStandIn({ dataDir, profile, wirePort, speed }: StandInOptions): Promise<RunningStandIn> {
  const store = new StandInStore(join(dataDir, 'stand-in', profile));
  const [about, state] = [await store.readProfile(), await store.readState()];
  await store.sweep();
  const host = new HandsetHost(about, state, store, speed);
  const token = randomBytes(24).toString('hex');
  const [wire, system] = [createWireServer(host), createSystemServer(host, token)];
  const run: StandInRun = { pid: process.pid, profile, wirePort: await listen(wire, wirePort), systemPort: await listen(system, 0), token };
  await mkdir(join(dataDir, 'run'), { recursive: true, mode: 0o700 });
  await writeFileWhole(runFilePath(dataDir), new TextEncoder().encode(JSON.stringify(run)));
  return {
    run,
    async close() {
      wire.close();
      system.close();
      await host.close();
      await rm(runFilePath(dataDir), { force: true });
    },
  };
}
