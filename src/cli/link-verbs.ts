import { EternoError } from '@/core/errors';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { BootloaderClient } from '@/link/bootloader-client';
import type { HostPort } from '@/link/tcp-transport';
import { openTcpTransport } from '@/link/tcp-transport';
import { resolveTarget, startFromMemory, writeImage } from '@/link/write-image';
import { openFile } from '@/platform/node/file-source';
import { nodeDigests } from '@/platform/node/node-digests';
import { machineClock } from '@/platform/node/machine-clock';
import { runDownloadPage } from '@/stand-in/download-page';
import { runStandIn } from '@/stand-in/run-stand-in';
import { parseArguments } from './arguments';
import type { Verb } from './verb';
import { needWritable, PROOF_LISTS, PROOF_OPTIONS } from './write-guard';

function hostPort(text: string): HostPort {
  const match = /^([A-Za-z0-9.-]+):(\d{1,5})$/.exec(text);
  if (!match || Number(match[2]) > 65535) throw new EternoError('usage', '--to takes HOST:PORT');
  return { host: match[1]!, port: Number(match[2]) };
}

async function withClient<T>(to: HostPort, work: (client: BootloaderClient) => Promise<T>): Promise<T> {
  const client = new BootloaderClient(await openTcpTransport(to));
  try {
    return await work(client);
  } finally {
    client.close();
  }
}

export const variables: Verb = async (args) => {
  const to = hostPort(parseArguments(args, ['to'], [0, 0]).required('to'));
  return withClient(to, async (client) => {
    const printed = parsePrinted(
      (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n'),
    );
    return { ...interpretFacts(printed.values), values: printed.values, unread: printed.unread };
  });
};

export const write: Verb = async (args, { signal, onProgress }) => {
  const parsed = parseArguments(args, ['to', 'partition', 'slot', ...PROOF_OPTIONS], [1, 1], PROOF_LISTS);
  const to = hostPort(parsed.required('to'));
  const target = { partition: parsed.required('partition'), slot: parsed.option('slot') ?? null };
  const source = await openFile(parsed.positionals[0]!);
  try {
    return await withClient(to, async (client) => {
      await resolveTarget(client, target);
      const { sha256, checks, unproved } = await needWritable(client, source, target, parsed);
      const proved = { sha256, digests: nodeDigests };
      const partition = await writeImage(
        client,
        target,
        source,
        { signal, ...(onProgress ? { onProgress } : {}) },
        proved,
      );
      return {
        partition,
        size: source.size,
        sha256,
        serial: await client.variable('serialno'),
        checks,
        unproved,
      };
    });
  } finally {
    await source.close();
  }
};

/**
 * Starts an image from the handset's memory, once; nothing on it is written, and it is judged as a write is.
 */
export const startOnce: Verb = async (args, { signal, onProgress }) => {
  const parsed = parseArguments(args, ['to', ...PROOF_OPTIONS], [1, 1], PROOF_LISTS);
  const to = hostPort(parsed.required('to'));
  const source = await openFile(parsed.positionals[0]!);
  try {
    return await withClient(to, async (client) => {
      const serial = await client.variable('serialno');
      const { sha256, checks, unproved } = await needWritable(
        client,
        source,
        { partition: null, slot: null },
        parsed,
      );
      await startFromMemory(
        client,
        source,
        { signal, ...(onProgress ? { onProgress } : {}) },
        { sha256, digests: nodeDigests },
      );
      return { started: true, size: source.size, sha256, serial, checks, unproved };
    });
  } finally {
    await source.close();
  }
};

function portOf(text: string | undefined): number {
  const port = Number(text ?? 0);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new EternoError('usage', '--port takes a number from 0 to 65535');
  return port;
}

const untilStopped = (signal: AbortSignal) =>
  new Promise<void>((resolve) => signal.addEventListener('abort', () => resolve(), { once: true }));
/** So many times quicker than on a real handset. */
const speed = () => Number(process.env.ETERNO_STAND_IN_SPEED ?? 1);
const STAND_IN_CLOCK = () => machineClock(speed());
/** In practice waits are quicker, and fingers are not. */
const handsClock = () => (process.env.ETERNO_PRACTICE || speed() === 1 ? machineClock() : null);

/** Runs until it is stopped; the run file in the data folder names the port. */
export const downloadPage: Verb = async (args, { signal }) => {
  const port = portOf(parseArguments(args, ['port'], [0, 0]).option('port'));
  const dataDir = process.env.ETERNO_DATA ?? 'data';
  const running = await runDownloadPage({ dataDir, port, clock: STAND_IN_CLOCK() });
  process.stderr.write(`download page: http://127.0.0.1:${running.run.port}\n`);
  await untilStopped(signal);
  await running.close();
  return { port: running.run.port, stopped: true };
};

/**
 * Runs until it is stopped; the run file in the data folder names the ports and the token. Without a profile
 * all that were made run.
 */
export const standIn: Verb = async (args, { signal }) => {
  const parsed = parseArguments(args, ['port', 'profile'], [0, 0]);
  const port = portOf(parsed.option('port'));
  const profile = parsed.option('profile') ?? null;
  if (profile !== null && !/^[a-z0-9-]{1,40}$/.test(profile))
    throw new EternoError('usage', 'a profile is named in small letters, digits and hyphens');
  const running = await runStandIn({
    dataDir: process.env.ETERNO_DATA ?? 'data',
    profile,
    wirePort: port,
    clock: STAND_IN_CLOCK(),
    hands: handsClock(),
  });
  for (const { profile: name, wirePort, systemPort } of running.run.handsets)
    process.stderr.write(
      `stand-in ${name}: wire protocol on 127.0.0.1:${wirePort}, system link on 127.0.0.1:${systemPort}\n`,
    );
  await untilStopped(signal);
  await running.close();
  return { profiles: running.run.handsets.map((one) => one.profile), stopped: true };
};
