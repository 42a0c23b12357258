import { mkdtemp, rm } from 'node:fs/promises';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { sleep } from '@/core/clock';
import type { HandsetState } from '@/core/handset/state';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { BootloaderClient } from '@/link/bootloader-client';
import { SystemClient } from '@/link/system-client';
import { openTcpTransport } from '@/link/tcp-transport';
import { splitSparse } from '@/core/formats/sparse/split';
import { writeImage } from '@/link/write-image';
import { nodePorts } from '@/platform/node/node-ports';
import type { RunningStandIn } from '@/stand-in/run-stand-in';
import { runStandIn } from '@/stand-in/run-stand-in';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { FINGERPRINT, kitZip, seeded, stockImage } from '../fixtures/images';
import type { Clock } from '@/core/clock';
import { CUTS_OFF_MS } from '@/core/handset/keys';
import { QuickClock } from '../fixtures/quick-clock';
import { HILL, makeHill, OTHER_MONTH } from '../fixtures/stand-in-world';

let clock: QuickClock;
let dir: string;
let running: RunningStandIn;
let stock: Uint8Array;
let patched: Uint8Array;

async function begin(change: Partial<HandsetState> = {}, hands: Fingers | null = null): Promise<void> {
  await makeHill(dir, { a: stock, b: await stockImage({ fingerprint: OTHER_MONTH }) }, change);
  running = await runStandIn({ dataDir: dir, profile: 'test', wirePort: 0, clock, hands });
}
const wire = async () =>
  new BootloaderClient(
    await openTcpTransport({ host: '127.0.0.1', port: running.run.handsets[0]!.wirePort }),
  );
const system = () => SystemClient.open(running.run.handsets[0]!.systemPort, running.run.token);
const view = async () => {
  const client = await system();
  const answer = (await client.ask({ do: 'view' }))['view'] as { state: HandsetState };
  client.close();
  return answer.state;
};
async function untilMode(mode: HandsetState['mode']): Promise<HandsetState> {
  for (let i = 0; i < 400; i += 1) {
    const state = await view();
    if (state.mode === mode) return state;
    await sleep(clock, 100);
  }
  throw new Error(`never reached ${mode}, stays ${(await view()).mode}`);
}
async function hold(keys: readonly string[], ms: number): Promise<void> {
  const client = await system();
  for (const key of keys) await client.ask({ do: 'key', key, down: true });
  await sleep(clock, ms + 100);
  for (const key of keys) await client.ask({ do: 'key', key, down: false });
  client.close();
}

beforeEach(async () => {
  clock = new QuickClock().go();
  dir = await mkdtemp(join(tmpdir(), 'eterno-stand-in-'));
  stock = await stockImage();
  const { kit } = await readKit(memorySource(await kitZip()), nodePorts);
  patched = (await patchImage(memorySource(stock), kit, nodePorts)).bytes;
});
afterEach(async () => {
  await running?.close();
  clock.stop();
  await rm(dir, { recursive: true, force: true });
});

describe('the wire protocol', () => {
  it('answers variables one by one and all at once', async () => {
    await begin();
    const client = await wire();
    expect(await client.variable('product')).toBe('hill');
    expect(await client.variable('no-such-thing')).toBeNull();
    expect((await client.allVariables()).some((line) => line === 'has-slot:init_boot:yes')).toBe(true);
    expect(await codeOf(() => client.command('format:userdata'))).toBe('handset-refused');
    client.close();
  });

  it('writes an image that then starts rooted, and grants root only after the prompt', async () => {
    await begin();
    const client = await wire();
    const steps: string[] = [];
    const name = await writeImage(client, { partition: 'init_boot', slot: 'a' }, memorySource(patched), {
      onProgress: ({ phase }) => steps.push(phase),
    });
    expect(name).toBe('init_boot_a');
    expect(steps).toContain('send');
    expect(steps.at(-1)).toBe('write');
    await client.command('reboot');
    client.close();
    expect((await untilMode('system')).running).toMatchObject({ slot: 'a', rooted: true });
    const link = await system();
    const asking = link.ask({ do: 'root' });
    while ((await view()).rootRequest !== 'asked') await sleep(clock, 100);
    await hold(['up'], 1);
    expect(await asking).toMatchObject({ granted: true, uid: 0 });
    expect(await link.bytes({ do: 'read', partition: 'init_boot_a' })).toEqual(new Uint8Array(patched));
    link.close();
  });

  it.each([
    ['of another month', async () => stockImage({ fingerprint: OTHER_MONTH }), 'looping'],
    ['that is noise', async () => seeded(3, 256 * 1024), 'looping'],
    ['that is stock', async () => stock, 'system'],
  ] as const)('an image %s has its true consequence', async (_what, make, mode) => {
    await begin();
    const client = await wire();
    await writeImage(client, { partition: 'init_boot', slot: 'a' }, memorySource(await make()));
    await client.command('reboot');
    client.close();
    const state = await untilMode(mode);
    expect(state.running?.rooted ?? false).toBe(false);
    if (mode === 'looping') {
      await hold(['down', 'power'], 3500);
      await untilMode('bootloader');
      const again = await wire();
      await writeImage(again, { partition: 'init_boot', slot: 'a' }, memorySource(stock));
      await again.command('reboot');
      again.close();
      expect((await untilMode('system')).running?.slot).toBe('a');
    }
  });

  it.each([
    ['no slot where there are slots', { partition: 'init_boot', slot: null }, 'usage'],
    ['a name that is none', { partition: '../boot', slot: 'a' }, 'usage'],
    ['a slot that is none', { partition: 'init_boot', slot: 'ab' }, 'usage'],
    ['a partition that is not there', { partition: 'odm', slot: null }, 'handset-refused'],
  ] as const)('refuses %s', async (_what, target, code) => {
    await begin();
    const client = await wire();
    expect(await codeOf(() => writeImage(client, target, memorySource(stock)))).toBe(code);
    client.close();
    expect((await view()).images['init_boot_a']?.patchedBy).toBeNull();
  });

  it('refuses to write while locked, or more than fits', async () => {
    await begin({ locked: true });
    const client = await wire();
    expect(
      await codeOf(() => writeImage(client, { partition: 'init_boot', slot: 'a' }, memorySource(stock))),
    ).toBe('refused');
    expect(await codeOf(() => client.command('set_active:b'))).toBe('handset-refused');
    client.close();
  });

  it('is not there outside the bootloader, and ends when the cable is pulled', async () => {
    await begin({ mode: 'off' });
    expect(await codeOf(wire)).toBe('link-lost');
    await hold(['down', 'power'], 2000);
    await untilMode('bootloader');
    const client = await wire();
    const link = await system();
    await link.ask({ do: 'cable', connected: false });
    expect(await codeOf(() => client.variable('product'))).toBe('link-lost');
    expect(await codeOf(wire)).toBe('link-lost');
    link.close();
  });

  it('a cable lost in the middle of a write leaves the partition broken, and a second write mends it', async () => {
    await begin();
    clock.stop();
    const [client, link] = [await wire(), await system()];
    const writing = errorOf(() =>
      writeImage(client, { partition: 'init_boot', slot: 'a' }, memorySource(patched)),
    );
    for (let busy: unknown = null; busy === null;)
      busy = ((await link.ask({ do: 'view' }))['view'] as { screen: { busy: string | null } }).screen.busy;
    await link.ask({ do: 'cable', connected: false });
    clock.go();
    expect((await writing).code).toBe('link-lost');
    await link.ask({ do: 'cable', connected: true });
    link.close();
    await running.close();
    running = await runStandIn({ dataDir: dir, profile: 'test', wirePort: 0, clock });
    const again = await wire();
    await writeImage(again, { partition: 'init_boot', slot: 'a' }, memorySource(patched));
    again.close();
    expect((await view()).images['init_boot_a']).toMatchObject({
      broken: null,
      patchedBy: { kit: 'burrow 7.3' },
    });
  });

  it('survives strangers that speak something else', async () => {
    await begin();
    const socket = connect(running.run.handsets[0]!.wirePort, '127.0.0.1');
    socket.on('error', () => undefined);
    socket.resume();
    socket.write('GET / HTTP/1.1\r\n\r\n');
    await new Promise((resolve) => socket.once('close', resolve));
    const client = await wire();
    expect(await client.variable('product')).toBe('hill');
    client.close();
  });
});

describe('the system link', () => {
  it('hangs up on who watches when the stand-in is ended', async () => {
    await begin();
    const watching = (await system()).watch();
    await watching.next();
    await running.close();
    expect((await errorOf(async () => void (await watching.next()))).code).toBe('link-lost');
  });

  it('answers what is no request with a typed error, and goes on', async () => {
    await begin();
    const socket = connect(running.run.handsets[0]!.systemPort, '127.0.0.1');
    const answers: string[] = [];
    socket.on('data', (bytes) => answers.push(...bytes.toString().trim().split('\n')));
    for (const line of ['null', '7', '[]', '{"do":"props"}', 'x']) socket.write(`${line}\n`);
    await vi.waitFor(() => expect(answers).toHaveLength(5));
    const codes = answers.map((answer) => (JSON.parse(answer) as { error: { code: string } }).error.code);
    expect(codes).toEqual(['bad-field', 'bad-field', 'refused', 'refused', 'bad-field']);
    socket.destroy();
    const client = await system();
    const force = (partition: string) => codeOf(() => client.send({ do: 'force', partition }, stock));
    for (const name of ['constructor', '__proto__', 'toString'])
      expect(await force(name)).toBe('handset-refused');
    client.close();
  });
  it('wants its token', async () => {
    await begin({ mode: 'system', running: { slot: 'a', build: FINGERPRINT, rooted: false } });
    const stranger = await SystemClient.open(running.run.handsets[0]!.systemPort, 'wrong');
    expect(await codeOf(() => stranger.ask({ do: 'props' }))).toBe('refused');
    stranger.close();
  });

  it('denies root on a stock image, and reads and writes nothing without it', async () => {
    await begin({ mode: 'system', running: { slot: 'a', build: FINGERPRINT, rooted: false } });
    const link = await system();
    expect(await link.ask({ do: 'root' })).toMatchObject({ granted: false, uid: 2000 });
    expect(await codeOf(() => link.bytes({ do: 'read', partition: 'init_boot_a' }))).toBe('handset-refused');
    expect(await codeOf(() => link.send({ do: 'write', partition: 'init_boot_a' }, stock))).toBe(
      'handset-refused',
    );
    expect(String((await link.ask({ do: 'props' }))['text'])).toContain(FINGERPRINT);
    link.close();
  });

  it('keeps its state across an end of the process', async () => {
    await begin({ mode: 'off' });
    await hold(['power'], 1500);
    await untilMode('system');
    await running.close();
    running = await runStandIn({ dataDir: dir, profile: 'test', wirePort: 0, clock });
    expect(await view()).toMatchObject({ mode: 'system', running: { slot: 'a' } });
  });

  it('tells every change to who watches', async () => {
    await begin({ mode: 'off' });
    const link = await system();
    const seen: string[] = [];
    const watching = (async () => {
      for await (const answer of link.watch()) {
        seen.push((answer['view'] as { state: HandsetState }).state.mode);
        if (seen.at(-1) === 'system') return;
      }
    })();
    await hold(['power'], 1500);
    await watching;
    link.close();
    expect(seen).toEqual(expect.arrayContaining(['off', 'starting', 'system']));
  });
});

/** A clock that stands still until it is told to go on; nothing else makes it pass. */
class Fingers implements Clock {
  private passed = 0;
  private due: readonly { readonly at: number; readonly work: () => void }[] = [];

  now(): number {
    return this.passed;
  }
  after(ms: number, work: () => void): () => void {
    const one = { at: this.passed + ms, work };
    this.due = [...this.due, one];
    return () => {
      this.due = this.due.filter((other) => other !== one);
    };
  }
  pass(ms: number): void {
    const end = this.passed + ms;
    for (;;) {
      const next = [...this.due].sort((a, b) => a.at - b.at)[0];
      if (!next || next.at > end) break;
      this.passed = next.at;
      this.due = this.due.filter((one) => one !== next);
      next.work();
    }
    this.passed = end;
  }
}

describe('keys under real fingers', () => {
  const keys = async (down: boolean, ...names: readonly string[]) => {
    const client = await system();
    for (const key of names) await client.ask({ do: 'key', key, down });
    client.close();
  };

  it('are held as long as hands hold them, however quick its own times pass', async () => {
    const hands = new Fingers();
    await begin({}, hands);
    await keys(true, 'power');
    await sleep(clock, 60_000);
    expect((await view()).mode).toBe('bootloader');
    hands.pass(2800);
    expect((await view()).mode).toBe('bootloader');
    hands.pass(400);
    expect((await view()).mode).toBe('off');
  });
  it('let go too early do nothing, and held far too long cut it off', async () => {
    const hands = new Fingers();
    await begin({ mode: 'off', running: null }, hands);
    await keys(true, 'power', 'down');
    hands.pass(1300);
    await keys(false, 'power', 'down');
    hands.pass(5000);
    expect((await view()).mode).toBe('off');
    await keys(true, 'power', 'down');
    hands.pass(1800);
    expect((await view()).mode).toBe('bootloader');
    hands.pass(CUTS_OFF_MS - 2200);
    expect((await view()).mode).toBe('bootloader');
    hands.pass(600);
    expect((await view()).mode).toBe('off');
    // it stays off until they are let go and held anew
    hands.pass(30_000);
    expect((await view()).mode).toBe('off');
    await keys(false, 'power', 'down');
    await keys(true, 'power');
    hands.pass(1200);
    expect((await view()).mode).not.toBe('off');
  });
});

describe('files on the handset', () => {
  it('are pushed and listed by their whole path, and never leave their folder', async () => {
    await begin({ mode: 'system', running: { slot: 'a', build: FINGERPRINT, rooted: false } });
    const link = await system();
    await link.send({ do: 'push', path: '/storage/init_boot.img' }, stock);
    expect((await link.ask({ do: 'list', path: '/storage' }))['files']).toMatchObject([
      { path: '/storage/init_boot.img', size: stock.length },
    ]);
    expect(await link.bytes({ do: 'pull', path: '/storage/init_boot.img' })).toEqual(stock);
    expect(await codeOf(() => link.bytes({ do: 'pull', path: '/storage/other.img' }))).toBe('not-found');
    expect((await link.ask({ do: 'list', path: '/stor' }))['files']).toEqual([]);
    for (const path of ['../x', '/a/../b', 'a', '/', `/${'x'.repeat(80)}`])
      expect(await codeOf(() => link.send({ do: 'push', path }, stock))).toBe('unsafe-path');
    link.close();
  });
});

describe('commands that are not for every handset', () => {
  it('answer with the machine’s reason, and erasing has its consequence', async () => {
    await begin();
    const client = await wire();
    for (const command of ['boot', 'flashing unlock', 'snapshot-update:cancel', 'snapshot-update:merge']) {
      expect(await codeOf(() => client.command(command)), command).toBe('handset-refused');
    }
    expect((await client.command('flashing get_unlock_ability')).text).toBe('1');
    await client.command('erase:init_boot_a');
    client.close();
    expect((await view()).images['init_boot_a']!.broken).not.toBeNull();
  });
  it('a sparse image lays its stretches over what is there', async () => {
    await begin();
    const parts = splitSparse(memorySource(patched), 9_000);
    expect(parts.length).toBeGreaterThan(3);
    const client = await wire();
    await writeImage(client, { partition: 'init_boot', slot: 'a' }, parts[0]!);
    expect(
      (await view()).images['init_boot_a']!.patchedBy === null ||
        (await view()).images['init_boot_a']!.broken !== null,
    ).toBe(true);
    for (const part of parts.slice(1)) await writeImage(client, { partition: 'init_boot', slot: 'a' }, part);
    client.close();
    expect((await view()).images['init_boot_a']).toMatchObject({
      broken: null,
      patchedBy: { kit: 'burrow 7.3' },
    });
  });
});

describe('modes and menus', () => {
  it('goes where the wire sends it, and comes back by the menu', async () => {
    await begin();
    const client = await wire();
    await client.command('reboot-fastboot');
    await untilMode('userspace');
    const user = await wire();
    expect(await user.variable('is-userspace')).toBe('yes');
    await user.command('reboot-bootloader');
    await untilMode('bootloader');
    const again = await wire();
    await again.command('reboot-recovery');
    await untilMode('recovery');
    const link = await system();
    expect(await link.ask({ do: 'listed' })).toMatchObject({
      mode: 'recovery',
      serial: HILL.serial,
      recovery: null,
    });
    for (const key of ['down', 'power']) {
      await link.ask({ do: 'key', key, down: true });
      await link.ask({ do: 'key', key, down: false });
    }
    await untilMode('bootloader');
    link.close();
  });
  it('unlocks only after the last word on its own screen, and then trusts nobody', async () => {
    await begin({ locked: true });
    const client = await wire();
    await client.command('flashing unlock');
    expect((await view()).locked).toBe(true);
    const link = await system();
    for (const key of ['down', 'power']) {
      await link.ask({ do: 'key', key, down: true });
      await link.ask({ do: 'key', key, down: false });
    }
    expect(await view()).toMatchObject({ locked: false, data: { wipes: 1 }, settings: { debugging: false } });
    await client.command('reboot');
    await untilMode('system');
    expect(await codeOf(() => link.ask({ do: 'props' }))).toBe('link-lost');
    await link.ask({ do: 'touch', id: 'debugging' });
    expect(String((await link.ask({ do: 'props' }))['text'])).toContain(HILL.serial);
    expect(await codeOf(() => link.ask({ do: 'touch', id: 'take update' }))).toBe('handset-refused');
    link.close();
  });
});
