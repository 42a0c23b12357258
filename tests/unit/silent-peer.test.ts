import { readFile, writeFile } from 'node:fs/promises';
import type { Server, Socket } from 'node:net';
import { connect, createServer } from 'node:net';
import { join } from 'node:path';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { EternoError } from '@/core/errors';
import { BootloaderClient } from '@/link/bootloader-client';
import { SystemClient } from '@/link/system-client';
import { openTcpTransport } from '@/link/tcp-transport';
import { takeLease } from '@/server/repositories/lease-repository';
import { cancelJob, startJob } from '@/server/services/jobs';
import { runStep } from '@/server/rounds/over-link';
import { slotCells } from '@/server/services/slot-service';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { ended } from '../fixtures/ended-job';
import { begin, see, seen, stepNow, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld } from '../fixtures/lane-world';
import { freshServer } from '../fixtures/server-world';

/* A peer that falls silent holds nothing for ever, and a person who stops a step is heard at once. */

const ends: (() => Promise<void> | void)[] = [];
afterEach(async () => {
  vi.useRealTimers();
  for (const end of ends.splice(0).reverse()) await end();
});

const portOf = (server: Server) => (server.address() as { port: number }).port;
async function listening(answer: (socket: Socket) => void): Promise<Server> {
  const sockets = new Set<Socket>();
  const server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    answer(socket);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  ends.push(() => {
    for (const socket of sockets) socket.destroy();
    server.close();
  });
  return server;
}
const SOON = { answer: 60, work: 60, person: 60 };

describe('a peer that says nothing', () => {
  it('ends a question to a running system', async () => {
    const client = await SystemClient.open(portOf(await listening(() => undefined)), 'token', SOON);
    const error = await errorOf(() => client.ask({ do: 'status' }));
    expect(error.code).toBe('link-lost');
    expect(error.message).toContain('said nothing');
    client.close();
  });
  it('ends a read in its middle', async () => {
    const client = await SystemClient.open(
      portOf(await listening((socket) => socket.write('{"ok":true,"length":4096}\nhalf of it'))),
      'token',
      SOON,
    );
    expect(await codeOf(() => client.bytes({ do: 'read', partition: 'boot' }))).toBe('link-lost');
  });
  it('ends the handshake, and a command after it', async () => {
    const mute = portOf(await listening(() => undefined));
    expect(await codeOf(() => openTcpTransport({ host: '127.0.0.1', port: mute }, SOON))).toBe('link-lost');
    const polite = portOf(await listening((socket) => socket.write('FB01')));
    const client = new BootloaderClient(await openTcpTransport({ host: '127.0.0.1', port: polite }, SOON));
    expect(await codeOf(() => client.variable('product'))).toBe('link-lost');
    client.close();
  });
  it('is not one that nobody asks, nor one that goes on talking', async () => {
    const limit = { answer: 1500, work: 1500, person: 1500 };
    const port = portOf(
      await listening((socket) => {
        socket.on('data', () => {
          // far less between two words than the limit, and the whole of it longer
          for (let i = 1; i <= 6; i += 1)
            setTimeout(() => socket.write(i === 6 ? 'true}\n' : i === 1 ? '{"ok":' : ' '), i * 300);
        });
      }),
    );
    const client = await SystemClient.open(port, 'token', limit);
    await new Promise((resolve) => setTimeout(resolve, 1700));
    expect(await client.ask({ do: 'status' })).toMatchObject({ ok: true });
    client.close();
  });
});

/**
 * A world whose links go through a wire that can be frozen: everything stays connected, nothing arrives any
 * more.
 */
async function frozenWorld(): Promise<{ world: LaneWorld; freeze: () => void }> {
  const world = await laneWorld();
  ends.push(() => world.end());
  let frozen = false;
  const path = join(world.dir, 'run', 'stand-in.json');
  const run = JSON.parse(await readFile(path, 'utf8')) as {
    handsets: { wirePort: number; systemPort: number }[];
  };
  const through = async (port: number) =>
    portOf(
      await listening((socket) => {
        const far = connect({ host: '127.0.0.1', port });
        far.on('error', () => undefined);
        far.on('data', (bytes) => frozen || socket.write(bytes));
        socket.on('data', (bytes) => frozen || far.write(bytes));
        far.on('close', () => frozen || socket.destroy());
        socket.on('close', () => far.destroy());
      }),
    );
  for (const one of run.handsets)
    Object.assign(one, { wirePort: await through(one.wirePort), systemPort: await through(one.systemPort) });
  await writeFile(path, JSON.stringify(run));
  return { world, freeze: () => void (frozen = true) };
}
const within = (ms: number) =>
  new Promise<'too late'>((resolve) => setTimeout(() => resolve('too late'), ms));

describe('a step that is stopped', () => {
  it('ends within a second though the handset is silent, and nothing was written', async () => {
    const { world, freeze } = await frozenWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'prove-root' });
    const job = await runStep(round, await version(round));
    const end = ended(job);
    await seen('the prompt', ({ state }) => state.rootRequest === 'asked');
    freeze();
    cancelJob(job.id);
    expect(await Promise.race([end, within(1000)])).toMatchObject({ state: 'cancelled' });
    expect((await stepNow(round))!.state).toBe('failed');
  });

  it('is told why not while bytes go onto the handset, and the write ends whole', async () => {
    const world = await laneWorld();
    ends.push(() => world.end());
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'write-root' });
    world.clock.stop();
    const job = await runStep(round, await version(round));
    const end = ended(job);
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    const refusal = await errorOf(() => cancelJob(job.id));
    expect(refusal.code).toBe('refused');
    expect(refusal.message).toContain('init_boot_a is being written');
    world.clock.go();
    expect(await end).toMatchObject({ state: 'done' });
    expect(
      (await slotCells(world.handset)).find(
        ({ partition, slot }) => partition === 'init_boot' && slot === 'a',
      )?.verdict,
    ).toBe('predicted');
  });

  it('that lost its handset to somebody else ends too, and says so', async () => {
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval'] });
    const world = await laneWorld();
    ends.push(() => world.end());
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'prove-root' });
    const job = await runStep(round, await version(round));
    const end = ended(job);
    await seen('the prompt', ({ state }) => state.rootRequest === 'asked');
    expect(
      await takeLease(
        { handsetId: world.handset, holder: 'another server', until: Date.now() + 600_000 },
        Date.now() + 60_000,
      ),
    ).toBe(true);
    await vi.advanceTimersByTimeAsync(10_000);
    const last = await end;
    expect(last).toMatchObject({ state: 'failed', error: { code: 'conflict' } });
    expect((await see()).state.images['init_boot_a']!.patchedBy).not.toBeNull();
  });
});

describe('work that is told to end', () => {
  it('ends at once, or as soon as what must not be broken off is over', async () => {
    const server = await freshServer();
    ends.push(() => server.end());
    const why = new EternoError('conflict', 'somebody else has it');
    const order: string[] = [];
    const job = await startJob({ kind: 'x', title: 'x', roundId: null }, async (watch) => {
      watch.hold('it writes');
      watch.stop(why);
      order.push(watch.signal.aborted ? 'broken off' : 'goes on');
      watch.hold(null);
      order.push(watch.signal.aborted ? 'over' : 'goes on');
      throw watch.signal.reason;
    });
    expect(await ended(job)).toMatchObject({ state: 'failed', error: { code: 'conflict' } });
    expect(order).toEqual(['goes on', 'over']);
  });
});
