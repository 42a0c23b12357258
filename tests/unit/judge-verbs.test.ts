import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { runVerb } from '@/cli/run-verb';
import { TYPE } from '@/core/formats/cpio/cpio-archive';
import { entry, FINGERPRINT, seeded, stockEntries, stockImage, zipBytes } from '../fixtures/images';

/* The two judgements on the command line: real files, and the answer with its exit code. */

let dir: string;
const at = (name: string) => join(dir, name);
const run = (...argv: string[]) => runVerb(argv, { signal: new AbortController().signal });
const MODE = { mode: TYPE.file | 0o750 };
const HANDSET = {
  fingerprint: FINGERPRINT,
  device: 'hill',
  slotCount: 2,
  currentSlot: 'a',
  unlocked: true,
  bootloader: 'tb-1.4-12',
  partitions: {
    init_boot: { size: null, hasSlot: true, logical: null },
    init_boot_a: { size: 256 * 1024, hasSlot: null, logical: false },
    bootloader: { size: null, hasSlot: true, logical: null },
    bootloader_a: { size: 9000, hasSlot: null, logical: false },
    recovery: { size: 256 * 1024, hasSlot: false, logical: false },
  },
  slotContents: { a: { build: FINGERPRINT } },
  snapshot: 'none',
  mode: 'bootloader',
  batteryPercent: 80,
  batteryAge: 10,
  recoveryHome: 'recovery',
};

beforeEach(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-judge-'));
  const bare = { footer: false } as const;
  const stock = await stockImage(bare);
  const loader = seeded(5, 5000);
  const own = entry('system/bin/recovery', seeded(8, 900), { mode: TYPE.file | 0o755 });
  const files: Readonly<Record<string, Uint8Array | string>> = {
    'stock.img': stock,
    'kept.img': await stockImage({
      ...bare,
      entries: [
        ...stockEntries().filter(({ name }) => new TextDecoder().decode(name) !== 'init'),
        entry('init', seeded(31, 9000), MODE),
        entry('wick/init', seeded(7, 20_000), MODE),
      ],
    }),
    'recovery.img': await stockImage({
      partition: 'recovery',
      version: 2,
      entries: [...stockEntries(), own],
    }),
    'bootloader.img': loader,
    'factory.zip': await zipBytes({
      'hill/bootloader-hill-tb-1.4-12.img': loader,
      'hill/image-hill-hc1.zip': await zipBytes({
        'init_boot.img': await stockImage(),
        'android-info.txt': 'require board=hill\nrequire version-bootloader=tb-1.4-12\n',
      }),
    }),
    'bare.zip': await zipBytes({ 'init_boot.img': stock, 'android-info.txt': 'require board=hill\n' }),
    'hill.json': JSON.stringify(HANDSET),
    'older.json': JSON.stringify({ ...HANDSET, bootloader: 'tb-1.4-13' }),
    'odd.json': JSON.stringify({ ...HANDSET, batteryPercent: 'full' }),
    'list.json': '[]',
  };
  for (const [name, content] of Object.entries(files)) await writeFile(at(name), content);
});
afterEach(() => rm(dir, { recursive: true, force: true }));

interface Out {
  readonly verdict: string;
  readonly checks: readonly { id: string; holds: boolean | null; evidence: string; overridable: boolean }[];
}
async function judged(image: string, handset: string, ...more: string[]) {
  const { exit, out, error } = await run('judge-write', at(image), '--to', at(handset), ...more);
  const { verdict, checks } = (out ?? { verdict: null, checks: [] }) as Out;
  return {
    exit,
    verdict,
    code: error?.code ?? null,
    checks: Object.fromEntries(checks.map((one) => [one.id, one.holds])),
  };
}
const INIT = ['--partition', 'init_boot', '--slot', 'a'];
const LOADER = ['--partition', 'bootloader', '--slot', 'a', '--purpose', 'bootloader'];

describe('eterno judge-write', () => {
  it('allows an image that names no build by the stock image whose package does', async () => {
    const root = [...INIT, '--purpose', 'root'];
    expect(await judged('kept.img', 'hill.json', ...root, '--stock', at('stock.img'))).toMatchObject({
      exit: 0,
      verdict: "can't tell",
      checks: { build: null, proof: true },
    });
    const stock = [...INIT, '--purpose', 'stock'];
    expect(await judged('stock.img', 'hill.json', ...stock, '--package', at('bare.zip'))).toMatchObject({
      verdict: "can't tell",
      checks: { build: null, handset: true, proof: true },
    });
  });

  it('knows a bootloader of no known format by its package, and shuts out an older one', async () => {
    const args = [...LOADER, '--package', at('factory.zip')];
    expect(await judged('bootloader.img', 'hill.json', ...args)).toMatchObject({
      exit: 0,
      verdict: 'allowed',
    });
    expect(await judged('bootloader.img', 'older.json', ...args)).toMatchObject({
      exit: 4,
      verdict: 'refused',
      code: 'refused',
      checks: { floor: false, partition: true, proof: true },
    });
    expect(await judged('bootloader.img', 'hill.json', ...LOADER)).toMatchObject({
      verdict: 'refused',
      checks: { floor: false, partition: null, proof: null },
    });
  });

  it('takes a recovery for its own partition only', async () => {
    const recovery = ['--purpose', 'recovery', '--partition'];
    expect(await judged('recovery.img', 'hill.json', ...recovery, 'recovery')).toMatchObject({
      exit: 0,
      verdict: 'allowed',
    });
    expect(await judged('recovery.img', 'hill.json', ...recovery, 'init_boot', '--slot', 'a')).toMatchObject({
      exit: 4,
      checks: { home: false, partition: false },
    });
    expect(await judged('bootloader.img', 'hill.json', ...recovery, 'recovery')).toMatchObject({
      exit: 4,
      checks: { proof: false },
    });
  });

  it.each<[string, readonly string[], number, string]>([
    ['no slot where there are two', ['--partition', 'init_boot', '--purpose', 'stock'], 2, 'usage'],
    [
      'a slot where there is one',
      ['--partition', 'recovery', '--slot', 'a', '--purpose', 'stock'],
      2,
      'usage',
    ],
    ['no purpose', INIT, 2, 'usage'],
    ['another purpose', [...INIT, '--purpose', 'luck'], 2, 'usage'],
    ['a partition with its slot', ['--partition', 'init_boot-a', '--purpose', 'stock'], 2, 'usage'],
    ['two images', [...INIT, '--purpose', 'stock', 'kept.img'], 2, 'usage'],
  ])('with %s', async (_what, args, exit, code) => {
    expect(await judged('stock.img', 'hill.json', ...args)).toMatchObject({ exit, code });
  });

  it('tells what is no handset from a wrong use', async () => {
    const args = [...INIT, '--purpose', 'stock'];
    for (const handset of ['odd.json', 'list.json', 'stock.img'])
      expect(await judged('stock.img', handset, ...args)).toMatchObject({ exit: 3 });
  });
});

describe('eterno judge', () => {
  it('says whether it belongs, how often it is patched and what changed', async () => {
    const { exit, out } = await run('judge', at('kept.img'), '--stock', at('stock.img'));
    expect({ exit, out }).toMatchObject({
      exit: 0,
      out: {
        belongs: 'yes',
        times: 1,
        by: [],
        unexpected: [],
        changes: { added: [], changed: ['init'], moved: ['wick/init'], removed: [] },
      },
    });
  });
  it('wants a stock image, and images', async () => {
    expect(await run('judge', at('kept.img'))).toMatchObject({ exit: 2 });
    expect(await run('judge', at('hill.json'), '--stock', at('stock.img'))).toMatchObject({ exit: 3 });
  });
});
