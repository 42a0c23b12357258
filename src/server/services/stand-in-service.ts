import 'server-only';
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { StandInView } from '@/contracts/stand-in-view';
import { EternoError } from '@/core/errors';
import { BootloaderClient } from '@/link/bootloader-client';
import { SystemClient } from '@/link/system-client';
import { openTcpTransport } from '@/link/tcp-transport';
import { dataDir } from '../db/data-dir';
import { openInVault } from '../vault/vault';

interface RunFile {
  readonly pid: number;
  readonly profile: string;
  readonly wirePort: number;
  readonly systemPort: number;
  readonly token: string;
}

/** The running stand-in's ports and token, or null where none runs. */
async function readRun(): Promise<RunFile | null> {
  try {
    const run = JSON.parse(await readFile(/*turbopackIgnore: true*/ join(dataDir(), 'run', 'stand-in.json'), 'utf8')) as RunFile;
    process.kill(run.pid, 0);
    return run;
  } catch {
    return null;
  }
}

async function needRun(): Promise<RunFile> {
  const run = await readRun();
  if (!run) throw new EternoError('link-lost', 'the stand-in is not running');
  return run;
}

/** Runs `work` on a fresh connection to the running system of the stand-in. @throws {EternoError} `link-lost` */
export async function withSystem<T>(work: (client: SystemClient) => Promise<T>): Promise<T> {
  const { systemPort, token } = await needRun();
  const client = await SystemClient.open(systemPort, token);
  try {
    return await work(client);
  } finally {
    client.close();
  }
}

/** Runs `work` on a fresh connection to the stand-in's bootloader. @throws {EternoError} `link-lost` where it is not in its bootloader */
export async function withBootloader<T>(work: (client: BootloaderClient) => Promise<T>): Promise<T> {
  const { wirePort } = await needRun();
  const client = new BootloaderClient(await openTcpTransport({ host: '127.0.0.1', port: wirePort }));
  try {
    return await work(client);
  } finally {
    client.close();
  }
}

export async function standInView(): Promise<StandInView | null> {
  return withSystem(async (client) => (await client.ask({ do: 'view' }))['view'] as StandInView).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'link-lost') return null;
    throw thrown;
  });
}

/** Every change of the stand-in until `signal` fires; ends when the stand-in does. */
async function* watchStandIn(signal: AbortSignal): AsyncGenerator<StandInView> {
  const { systemPort, token } = await needRun();
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

export const pressKey = (key: string, down: boolean) => withSystem((client) => client.ask({ do: 'key', key, down }));
export const setCable = (connected: boolean) => withSystem((client) => client.ask({ do: 'cable', connected }));

/** Puts an image of the vault on the stand-in past every check, to see what becomes of it. */
export async function forceImage(sha256: string, partition: string): Promise<void> {
  const source = await openInVault('images', sha256);
  try {
    const bytes = await source.read(0, source.size);
    await withSystem((client) => client.send({ do: 'force', partition }, bytes));
  } finally {
    await source.close();
  }
}

/** Starts the stand-in again after it ended; its state is on disk. @throws {EternoError} `io` when it does not come up */
export async function restartStandIn(): Promise<void> {
  if (await readRun()) return;
  const child = spawn('npm', ['run', '-s', 'eterno', '--', 'stand-in'], {
    detached: true,
    stdio: 'ignore',
    env: { ...process.env, ETERNO_DATA: dataDir() },
  });
  child.unref();
  for (let tries = 0; tries < 100; tries += 1) {
    await new Promise((resolve) => setTimeout(resolve, 100));
    if (await readRun()) return;
  }
  throw new EternoError('io', 'the stand-in did not come up within 10 seconds');
}

const RETRY_MS = 1000;

/** Tells every change of the stand-in, and null while none runs; goes on by itself when it comes back. */
export function followStandIn(tell: (view: StandInView | null) => void): () => void {
  const abort = new AbortController();
  void (async () => {
    while (!abort.signal.aborted) {
      try {
        for await (const view of watchStandIn(abort.signal)) tell(view);
      } catch (thrown) {
        if (!(thrown instanceof EternoError)) throw thrown;
      }
      if (abort.signal.aborted) return;
      tell(null);
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  })();
  return () => abort.abort();
}
