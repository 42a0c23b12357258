import 'server-only';
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { StandInMessage, StandInView } from '@/contracts/stand-in-view';
import { EternoError } from '@/core/errors';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import { SystemClient } from '@/link/system-client';
import { dataDir } from '../db/data-dir';
import { openInVault } from '../vault/vault';
import { oneAtATime } from './one-at-a-time';

interface Ports {
  readonly profile: string;
  readonly wirePort: number;
  readonly systemPort: number;
}
interface RunFile {
  readonly pid: number;
  readonly token: string;
  readonly handsets: readonly Ports[];
}

/** The running stand-ins' ports and token, or null where none runs. */
async function readRun(): Promise<RunFile | null> {
  try {
    const run = JSON.parse(
      await readFile(/*turbopackIgnore: true*/ join(dataDir(), 'run', 'stand-in.json'), 'utf8'),
    ) as RunFile;
    process.kill(run.pid, 0);
    return run;
  } catch {
    return null;
  }
}

/** @throws {EternoError} `link-lost` where none runs */
export async function standInAddress(profile: string): Promise<Ports & Pick<RunFile, 'token'>> {
  const run = await readRun();
  if (!run) throw new EternoError('link-lost', 'the stand-in is not running');
  const ports = run.handsets.find((one) => one.profile === profile);
  if (!ports) throw new EternoError('link-lost', 'no stand-in of this handset is running');
  return { ...ports, token: run.token };
}

/**
 * Works on the stand-in's own panel. Nothing that a round says was seen comes from there.
 * @throws {EternoError} `link-lost`
 */
async function onPanel<T>(profile: string, work: (client: SystemClient) => Promise<T>): Promise<T> {
  const { systemPort, token } = await standInAddress(profile);
  const client = await SystemClient.open(systemPort, token);
  try {
    return await work(client);
  } finally {
    client.close();
  }
}

/** Everything of a stand-in, as its panel shows it; null where it does not run. */
export async function standInView(profile: string): Promise<StandInView | null> {
  return onPanel(
    profile,
    async (client) => (await client.ask<'view'>({ do: 'view' })).view as StandInView,
  ).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'link-lost') return null;
    throw thrown;
  });
}

/** Every change of a stand-in until `signal` fires; ends when the stand-in does. */
async function* watchStandIn(
  { systemPort }: Ports,
  token: string,
  signal: AbortSignal,
): AsyncGenerator<StandInView> {
  const client = await SystemClient.open(systemPort, token);
  signal.addEventListener('abort', () => client.close(), { once: true });
  try {
    for await (const answer of client.watch()) yield answer.view as StandInView;
  } catch (thrown) {
    if (!(thrown instanceof EternoError && thrown.code === 'link-lost')) throw thrown;
  } finally {
    client.close();
  }
}

export const pressKey = (profile: string, key: string, down: boolean) =>
  onPanel(profile, (client) => client.ask<'key'>({ do: 'key', key, down }));
export const touchScreen = (profile: string, id: string) =>
  onPanel(profile, (client) => client.ask<'touch'>({ do: 'touch', id }));
export const setCable = (profile: string, connected: boolean) =>
  onPanel(profile, (client) => client.ask<'cable'>({ do: 'cable', connected }));
export const setBattery = (profile: string, percent: number) =>
  onPanel(profile, (client) => client.ask<'battery'>({ do: 'battery', percent }));

/** Puts a fault in that it does not show before its next start, or before it is next asked. */
export const putFault = (profile: string, fault: HiddenFaultId) =>
  onPanel(profile, (client) => client.ask<'fault'>({ do: 'fault', fault }));
export const otherCable = (profile: string) =>
  onPanel(profile, (client) => client.ask<'other-cable'>({ do: 'other-cable' }));

/** Sends something to the unlocking desk of the stand-in's maker; the answer comes by its mail. */
export const writeToDesk = (profile: string, text: string) =>
  onPanel(profile, (client) => client.ask<'desk'>({ do: 'desk', text }));

/** Puts an image of the vault on the stand-in past every check, to see what becomes of it. */
export async function forceImage(profile: string, sha256: string, partition: string): Promise<void> {
  const source = await openInVault('images', sha256);
  try {
    const bytes = await source.read(0, source.size);
    await onPanel(profile, (client) => client.send({ do: 'force', partition }, bytes));
  } finally {
    await source.close();
  }
}

/**
 * Starts the stand-ins again after their process ended; their state is on disk.
 * @throws {EternoError} `io` when it does not come up
 */
export const restartStandIn = (): Promise<void> => oneAtATime('stand-in', startStandIn);

async function startStandIn(): Promise<void> {
  if (await readRun()) return;
  const child = spawn('npm', ['run', '-s', 'eterno', '--', 'stand-in'], {
    detached: true,
    stdio: 'ignore',
    env: { ...process.env, ETERNO_DATA: dataDir() },
  });
  let failed: Error | null = null;
  child.once('error', (error) => (failed = error));
  child.unref();
  for (let tries = 0; tries < 300; tries += 1) {
    await new Promise((resolve) => setTimeout(resolve, 100));
    if (failed !== null) throw new EternoError('io', 'the stand-in could not be started', { cause: failed });
    if (await readRun()) return;
  }
  throw new EternoError('io', 'the stand-in did not come up within 10 seconds');
}

const RETRY_MS = 1000;

/**
 * Tells every change of every stand-in, and `none` while none runs; goes on by itself when they come back.
 */
export function followStandIns(tell: (message: StandInMessage) => void): () => void {
  const abort = new AbortController();
  const follow = async (ports: Ports, token: string) => {
    try {
      for await (const view of watchStandIn(ports, token, abort.signal))
        tell({ profile: ports.profile, view });
    } catch (thrown) {
      if (!(thrown instanceof EternoError)) throw thrown;
    }
  };
  void (async () => {
    while (!abort.signal.aborted) {
      const run = await readRun();
      if (run) await Promise.all(run.handsets.map((ports) => follow(ports, run.token)));
      if (abort.signal.aborted) return;
      tell({ profile: null, view: null });
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  })();
  return () => abort.abort();
}
