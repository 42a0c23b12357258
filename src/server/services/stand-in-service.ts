import 'server-only';
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { StandInMessage, StandInView } from '@/contracts/stand-in-view';
import { EternoError, throwIfAborted } from '@/core/errors';
import { BootloaderClient } from '@/link/bootloader-client';
import { SystemClient } from '@/link/system-client';
import { openTcpTransport } from '@/link/tcp-transport';
import { dataDir } from '../db/data-dir';
import type { HandsetRow } from '../db/models';
import { openInVault } from '../vault/vault';
import { jobSignal } from './job-signal';
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
    const run = JSON.parse(await readFile(/*turbopackIgnore: true*/ join(dataDir(), 'run', 'stand-in.json'), 'utf8')) as RunFile;
    process.kill(run.pid, 0);
    return run;
  } catch {
    return null;
  }
}

async function needRun(profile: string): Promise<Ports & Pick<RunFile, 'token'>> {
  const run = await readRun();
  if (!run) throw new EternoError('link-lost', 'the stand-in is not running');
  const ports = run.handsets.find((one) => one.profile === profile);
  if (!ports) throw new EternoError('link-lost', 'no stand-in of this handset is running');
  return { ...ports, token: run.token };
}

/** Which stand-in a handset is linked to. @throws {EternoError} `refused` for one that is not linked */
export function profileOf({ link, profile }: Pick<HandsetRow, 'link' | 'profile'>): string {
  if (link !== 'stand-in' || profile === null) throw new EternoError('refused', 'This handset is not linked: do the step by hand.');
  return profile;
}

/** Runs `work` on a fresh connection to the stand-in's system link. @throws {EternoError} `link-lost` */
export async function withSystem<T>(profile: string, work: (client: SystemClient) => Promise<T>): Promise<T> {
  const { systemPort, token } = await needRun(profile);
  return untilStopped(await SystemClient.open(systemPort, token), work);
}

/** A job that is stopped ends its connections at once, whatever the other end does. @throws {EternoError} `cancelled` then */
async function untilStopped<C extends { close(): void }, T>(client: C, work: (client: C) => Promise<T>): Promise<T> {
  const signal = jobSignal.getStore();
  const stop = () => client.close();
  signal?.addEventListener('abort', stop, { once: true });
  try {
    throwIfAborted(signal);
    return await work(client);
  } catch (thrown) {
    throwIfAborted(signal);
    throw thrown;
  } finally {
    signal?.removeEventListener('abort', stop);
    client.close();
  }
}

/** Runs `work` on a fresh connection to the stand-in's bootloader. @throws {EternoError} `link-lost` where it is not in its bootloader */
export async function withBootloader<T>(profile: string, work: (client: BootloaderClient) => Promise<T>): Promise<T> {
  const { wirePort } = await needRun(profile);
  return untilStopped(new BootloaderClient(await openTcpTransport({ host: '127.0.0.1', port: wirePort })), work);
}

export async function standInView(profile: string): Promise<StandInView | null> {
  return withSystem(profile, async (client) => (await client.ask({ do: 'view' }))['view'] as StandInView).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'link-lost') return null;
    throw thrown;
  });
}

/** Every change of a stand-in until `signal` fires; ends when the stand-in does. */
async function* watchStandIn({ systemPort }: Ports, token: string, signal: AbortSignal): AsyncGenerator<StandInView> {
  const client = await SystemClient.open(systemPort, token);
  signal.addEventListener('abort', () => client.close(), { once: true });
  try {
    for await (const answer of client.watch()) yield answer['view'] as StandInView;
  } catch (thrown) {
    if (!(thrown instanceof EternoError && thrown.code === 'link-lost')) throw thrown;
  } finally {
    client.close();
  }
}

export const pressKey = (profile: string, key: string, down: boolean) => withSystem(profile, (client) => client.ask({ do: 'key', key, down }));
export const touchScreen = (profile: string, id: string) => withSystem(profile, (client) => client.ask({ do: 'touch', id }));
export const setCable = (profile: string, connected: boolean) => withSystem(profile, (client) => client.ask({ do: 'cable', connected }));
export const setBattery = (profile: string, percent: number) => withSystem(profile, (client) => client.ask({ do: 'battery', percent }));

/** Puts an image of the vault on the stand-in past every check, to see what becomes of it. */
export async function forceImage(profile: string, sha256: string, partition: string): Promise<void> {
  const source = await openInVault('images', sha256);
  try {
    const bytes = await source.read(0, source.size);
    await withSystem(profile, (client) => client.send({ do: 'force', partition }, bytes));
  } finally {
    await source.close();
  }
}

/** Starts the stand-ins again after their process ended; their state is on disk. @throws {EternoError} `io` when it does not come up */
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
  for (let tries = 0; tries < 100; tries += 1) {
    await new Promise((resolve) => setTimeout(resolve, 100));
    if (failed !== null) throw new EternoError('io', 'the stand-in could not be started', { cause: failed });
    if (await readRun()) return;
  }
  throw new EternoError('io', 'the stand-in did not come up within 10 seconds');
}

const RETRY_MS = 1000;

/** Tells every change of every stand-in, and `none` while none runs; goes on by itself when they come back. */
export function followStandIns(tell: (message: StandInMessage) => void): () => void {
  const abort = new AbortController();
  const follow = async (ports: Ports, token: string) => {
    try {
      for await (const view of watchStandIn(ports, token, abort.signal)) tell({ profile: ports.profile, view });
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
