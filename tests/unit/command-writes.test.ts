import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { runVerb } from '@/cli/run-verb';
import { memorySource } from '@/core/bytes/byte-source';
import { TYPE } from '@/core/formats/cpio/cpio-archive';
import type { HandsetState } from '@/core/handset/state';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { SystemClient } from '@/link/system-client';
import { nodePorts } from '@/platform/node/node-ports';
import type { RunningStandIn } from '@/stand-in/run-stand-in';
import { runStandIn } from '@/stand-in/run-stand-in';
import { entry, FINGERPRINT, kitZip, seeded, stockEntries, stockImage, zipBytes } from '../fixtures/images';
import { QuickClock } from '../fixtures/quick-clock';
import { sha256 } from '../fixtures/server-world';
import { HILL, makeHill, OTHER_MONTH } from '../fixtures/stand-in-world';

/* The command writes what is proved to belong there, like every other way. */

let clock: QuickClock;
let dir: string;
let running: RunningStandIn;
let stock: Uint8Array;
let patched: Uint8Array;
let to: string;
const at = (name: string) => join(dir, name);

beforeEach(async () => {
  clock = new QuickClock().go();
  dir = await mkdtemp(join(tmpdir(), 'eterno-command-'));
  stock = await stockImage();
  const kit = await kitZip();
  patched = (
    await patchImage(memorySource(stock), (await readKit(memorySource(kit), nodePorts)).kit, nodePorts)
  ).bytes;
  const files: Readonly<Record<string, Uint8Array | string>> = {
    'stock.img': stock,
    'patched.img': patched,
    'burrow.kit.zip': kit,
    'next.img': await stockImage({ fingerprint: OTHER_MONTH }),
    'moor.img': await stockImage({ fingerprint: FINGERPRINT.replace('/hill:', '/moor:') }),
    'other-kernel.img': await stockImage({ kernel: seeded(4, 5000) }),
    'unmarked.img': await stockImage({ entries: [...stockEntries(), entry('su', 'a program')] }),
    'kept.img': await stockImage({
      entries: [
        ...stockEntries().filter(({ name }) => new TextDecoder().decode(name) !== 'init'),
        entry('init', seeded(31, 9000), { mode: TYPE.file | 0o750 }),
        entry('wick/init', seeded(7, 20_000), { mode: TYPE.file | 0o750 }),
      ],
    }),
    'hill.zip': await zipBytes({ 'init_boot.img': stock, 'android-info.txt': 'require board=hill\n' }),
    'facts.json': JSON.stringify({ fingerprint: FINGERPRINT, device: 'hill', serial: HILL.serial }),
    'others.json': JSON.stringify({ fingerprint: FINGERPRINT, device: 'hill', serial: 'ANOTHER1' }),
    'noise.img': seeded(1, 5000),
  };
  for (const [name, content] of Object.entries(files)) await writeFile(at(name), content);
});
afterEach(async () => {
  await running?.close();
  clock.stop();
  await rm(dir, { recursive: true, force: true });
});
async function begin(change: Partial<HandsetState> = {}): Promise<void> {
  await makeHill(dir, { a: stock, b: await stockImage({ fingerprint: OTHER_MONTH }) }, change);
  running = await runStandIn({ dataDir: dir, profile: 'test', wirePort: 0, clock });
  to = `127.0.0.1:${running.run.handsets[0]!.wirePort}`;
}
const run = (...argv: string[]) => runVerb(argv, { signal: new AbortController().signal });
/** Options whose values are names of files here. */
const write = (image: string, options: Readonly<Record<string, string>>, partition = 'init_boot') =>
  run('write', at(image), '--to', to, '--partition', partition, '--slot', 'a', ...given(options));
const given = (options: Readonly<Record<string, string>>) =>
  Object.entries(options).flatMap(([name, value]) => [`--${name}`, name === 'unproved' ? value : at(value)]);
async function onSlotA(): Promise<string> {
  const client = await SystemClient.open(running.run.handsets[0]!.systemPort, running.run.token);
  const { state } = (await client.ask({ do: 'view' }))['view'] as { state: HandsetState };
  client.close();
  return state.images['init_boot_a']!.sha256;
}

const FACTS = { facts: 'facts.json' };
const PROVED = { ...FACTS, stock: 'stock.img' };
const REASON = { unproved: 'I made it myself' };

describe('eterno write', () => {
  it.each<[string, string, Readonly<Record<string, string>>, string | null]>([
    ['an image that keeps what it replaced, with its stock image', 'kept.img', PROVED, null],
    [
      'a patched image with its stock image and its kit',
      'patched.img',
      { ...PROVED, kit: 'burrow.kit.zip' },
      null,
    ],
    [
      'a patched image with its package and its kit',
      'patched.img',
      { ...FACTS, package: 'hill.zip', kit: 'burrow.kit.zip' },
      null,
    ],
    [
      'what the kit changes without a copy, with a reason',
      'patched.img',
      { ...PROVED, ...REASON },
      REASON.unproved,
    ],
    ['the stock image itself', 'stock.img', PROVED, null],
    ['the stock image of a package', 'stock.img', { ...FACTS, package: 'hill.zip' }, null],
    ['an image that nothing proves, with a reason', 'patched.img', { ...FACTS, ...REASON }, REASON.unproved],
    [
      'an image for a build that was not given, with a reason',
      'patched.img',
      { stock: 'stock.img', ...REASON },
      REASON.unproved,
    ],
    ['an image that bears no note, with a reason', 'unmarked.img', { ...PROVED, ...REASON }, REASON.unproved],
  ])('writes %s', async (_what, image, options, unproved) => {
    await begin();
    const { exit, out } = await write(image, options);
    expect({ exit, out }).toMatchObject({
      exit: 0,
      out: { partition: 'init_boot_a', serial: HILL.serial, unproved },
    });
    expect(await onSlotA()).toBe((out as { sha256: string }).sha256);
  });

  it.each<[string, string, Readonly<Record<string, string>>, Partial<HandsetState>, string | undefined]>([
    ['an image that nothing proves', 'patched.img', FACTS, {}, undefined],
    ['an image for a build that was not given', 'patched.img', { stock: 'stock.img' }, {}, undefined],
    ['an image that bears no note', 'unmarked.img', PROVED, {}, undefined],
    ['what the kit changes without a copy', 'patched.img', PROVED, {}, undefined],
    ['an image of another build', 'next.img', { ...FACTS, ...REASON }, {}, undefined],
    ['an image of another handset', 'moor.img', { ...FACTS, ...REASON }, {}, undefined],
    ['an image of another partition', 'patched.img', { ...PROVED, ...REASON }, {}, 'boot'],
    ['an image with another kernel', 'other-kernel.img', { ...PROVED, ...REASON }, {}, undefined],
    [
      'what the kit did not make',
      'other-kernel.img',
      { ...PROVED, kit: 'burrow.kit.zip', ...REASON },
      {},
      undefined,
    ],
    [
      'facts of another handset',
      'patched.img',
      { ...PROVED, facts: 'others.json', ...REASON },
      {},
      undefined,
    ],
    ['a battery that is too low', 'patched.img', { ...PROVED, ...REASON }, { batteryPercent: 29 }, undefined],
    ['a locked bootloader', 'patched.img', { ...PROVED, ...REASON }, { locked: true }, undefined],
  ])('refuses %s', async (_what, image, options, change, partition) => {
    await begin(change);
    expect(await write(image, options, partition)).toMatchObject({ exit: 4, error: { code: 'refused' } });
    expect(await onSlotA()).toBe(sha256(stock));
  });

  it('tells bad input from a refusal, and wants the slot', async () => {
    await begin();
    expect(await write('noise.img', PROVED)).toMatchObject({ exit: 3, error: { code: 'bad-magic' } });
    expect(await write('patched.img', { ...PROVED, facts: 'noise.img' })).toMatchObject({
      exit: 3,
      error: { code: 'bad-field' },
    });
    expect(
      await run('write', at('patched.img'), '--to', to, '--partition', 'init_boot', ...given(PROVED)),
    ).toMatchObject({
      exit: 2,
      error: { code: 'usage' },
    });
  });
});

describe('eterno start-once and variables', () => {
  it('is judged as a write is', async () => {
    await begin();
    expect(await run('start-once', at('patched.img'), '--to', to, ...given(PROVED))).toMatchObject({
      exit: 4,
      error: { code: 'refused' },
    });
  });
  it('read, and say where nobody answers', async () => {
    await begin();
    expect((await run('variables', '--to', to)).out).toMatchObject({
      device: 'hill',
      serial: HILL.serial,
      currentSlot: 'a',
    });
    expect(await run('variables', '--to', '127.0.0.1:1')).toMatchObject({
      exit: 1,
      error: { code: 'link-lost' },
    });
    expect(await run('variables', '--to', 'nowhere')).toMatchObject({ exit: 2 });
  });
});
