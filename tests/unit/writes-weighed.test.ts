import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { TYPE } from '@/core/formats/cpio/cpio-archive';
import { judgeWrite } from '@/core/judge/judge-write';
import { weighWrite } from '@/core/judge/weigh-write';
import type { HandsetFacts } from '@/core/judge/write-target';
import { writeTargetOf } from '@/core/judge/write-target';
import type { Kit } from '@/core/kits/kit';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { entry, FINGERPRINT, kitZip, seeded, stockEntries, stockImage } from '../fixtures/images';

/*
 * A thousand seeded image × handset pairs over real files: each file is opened, weighed and judged, and the
 * verdict is held against a table that knows only how the file was made and what the handset is.
 */

const BUILDS = {
  here: { fingerprint: FINGERPRINT, device: 'hill', product: 'hill_eu', level: '2026-09-05' },
  next: {
    fingerprint: 'club/hill_eu/hill:16/HC1.261005.001/9002:user/release-keys',
    device: 'hill',
    product: 'hill_eu',
    level: '2026-10-05',
  },
  variant: {
    fingerprint: 'club/hill_us/hill:16/HC1.260905.007/9003:user/release-keys',
    device: 'hill',
    product: 'hill_us',
    level: '2026-09-05',
  },
  moor: {
    fingerprint: 'club/moor_eu/moor:16/HC1.260905.007/9001:user/release-keys',
    device: 'moor',
    product: 'moor_eu',
    level: '2026-09-05',
  },
} as const;
type BuildName = keyof typeof BUILDS;
const BUILD_NAMES = Object.keys(BUILDS) as BuildName[];
const PLACES = ['init_boot', 'boot'] as const;
type Place = (typeof PLACES)[number];

/** How a file was made. */
interface Made {
  readonly path: string;
  readonly size: number;
  readonly build: BuildName;
  readonly partition: Place;
  readonly how: 'stock' | 'by our kit' | 'elsewhere' | 'elsewhere, and more' | 'twice';
}

let folder: string;
let kit: Kit;
const files: Made[] = [];

async function keep(bytes: Uint8Array, made: Omit<Made, 'path' | 'size'>): Promise<void> {
  const path = join(folder, `${made.partition} ${made.build} ${made.how}.img`);
  await writeFile(path, bytes);
  files.push({ ...made, path, size: bytes.length });
}

const run = { mode: TYPE.file | 0o750 };
const named = (wanted: string) =>
  stockEntries().filter(({ name }) => new TextDecoder().decode(name) !== wanted);
const props = (build: BuildName) =>
  entry(
    'etc/props.default',
    `ro.build.fingerprint=${BUILDS[build].fingerprint}\nro.build.version.security_patch=${BUILDS[build].level}\n`,
  );

/** A build has files of its own in the ramdisk. */
const ofBuild = (build: BuildName) => [props(build), entry('own', seeded(build.length, 300))];

async function makeFiles(build: BuildName, partition: Place): Promise<void> {
  const { fingerprint, level } = BUILDS[build];
  const kernel = partition === 'boot' ? { kernel: seeded(build.length + 40, 5000) } : {};
  const own = { fingerprint, patchLevel: level, partition, ...kernel };
  const of = { build, partition };
  const stock = await stockImage({ ...own, entries: [...stockEntries(), ...ofBuild(build)] });
  const patched = (await patchImage(memorySource(stock, 'stock.img'), kit, nodePorts)).bytes;
  const init = seeded(7, 20_000);
  const elsewhere = [
    ...named('init'),
    ...ofBuild(build),
    entry('init', seeded(31, 9000), run),
    entry('wick/kept/init', init, run),
  ];
  const bare = { ...own, footer: false };
  await keep(stock, { ...of, how: 'stock' });
  await keep(patched, { ...of, how: 'by our kit' });
  await keep(await stockImage({ ...bare, entries: elsewhere }), { ...of, how: 'elsewhere' });
  const more = elsewhere.filter(({ name }) => new TextDecoder().decode(name) !== 'verity_key');
  await keep(await stockImage({ ...bare, entries: [...more, entry('verity_key', 'another')] }), {
    ...of,
    how: 'elsewhere, and more',
  });
  // what the first patch put there is kept as if it were the stock’s
  const twice = [
    ...named('init'),
    ...ofBuild(build),
    entry('init', seeded(32, 9000), run),
    entry('wick/kept/init', seeded(31, 9000), run),
    entry('wick/kept/kept/init', init, run),
  ];
  await keep(await stockImage({ ...bare, entries: twice }), { ...of, how: 'twice' });
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'eterno-weighed-'));
  kit = (await readKit(memorySource(await kitZip(), 'burrow.kit.zip'), nodePorts)).kit;
  for (const build of BUILD_NAMES) for (const partition of PLACES) await makeFiles(build, partition);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

type Truth = 'good' | 'unknown' | 'bad';
type Drawn<T> = readonly [value: T, truth: Truth];

/** What is asked of one file for one handset. */
interface Pair {
  readonly made: Made;
  readonly purpose: 'root' | 'stock';
  readonly reference: Made | null;
  readonly withKit: boolean;
  /** The build that runs, on slot `a`, and the one on the other; null where nobody knows. */
  readonly runs: BuildName | null;
  readonly other: BuildName | null;
  readonly device: string;
  readonly place: Place;
  readonly slot: 'a' | 'b';
  readonly lock: Drawn<boolean | null>;
  readonly battery: Drawn<readonly [percent: number, age: number]>;
  readonly mode: Drawn<string | null>;
  readonly snapshot: string | null;
  /** Bytes that the partition has more than the file; null where its size is not known. */
  readonly room: Drawn<number | null>;
}

/** Mostly the first, else one of the rest. */
function drawing(seed: number) {
  let x = seed;
  const below = (n: number) => {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
    return Math.floor((x / 2 ** 32) * n);
  };
  const one = <T>(list: readonly T[]): T => list[below(list.length)]!;
  const mostly = <T>(first: T, ...rest: readonly T[]): T => (below(100) < 90 ? first : one(rest));
  return { below, one, mostly };
}

function drawPair({ one, mostly }: ReturnType<typeof drawing>): Pair {
  const made = one(files);
  const purpose = made.how === 'stock' ? mostly('stock', 'root') : mostly('root', 'stock');
  const stockOf = (build: BuildName) =>
    files.find((file) => file.how === 'stock' && file.build === build && file.partition === made.partition)!;
  const known = mostly<BuildName | null>(made.build, ...BUILD_NAMES, null);
  return {
    made,
    purpose,
    reference: mostly<Made | null>(stockOf(made.build), stockOf(one(BUILD_NAMES)), null),
    withKit: one([true, false]),
    runs: known,
    device: BUILDS[known ?? made.build].device,
    other: mostly<BuildName | null>(made.build, ...BUILD_NAMES, null),
    place: mostly(made.partition, ...PLACES),
    slot: one(['a', 'b']),
    lock: mostly<Drawn<boolean | null>>([true, 'good'], [false, 'bad'], [null, 'unknown']),
    battery: mostly<Drawn<readonly [number, number]>>(
      [[30, 3600], 'good'],
      [[29, 60], 'bad'],
      [[90, 3601], 'unknown'],
    ),
    mode: mostly<Drawn<string | null>>(['bootloader', 'good'], ['looping', 'bad'], [null, 'unknown']),
    snapshot: mostly<string | null>('none', 'merging', 'waiting', null),
    room: mostly<Drawn<number | null>>([0, 'good'], [-1, 'bad'], [null, 'unknown']),
  };
}

/** What the handset says of itself. */
function factsOf({ made, runs, other, device, place, slot, lock, battery, mode, snapshot, room }: Pair) {
  const size = room[0] === null ? null : made.size + room[0];
  const facts: HandsetFacts = {
    fingerprint: runs && BUILDS[runs].fingerprint,
    device,
    slotCount: 2,
    currentSlot: 'a',
    unlocked: lock[0],
    partitions: { [place]: { hasSlot: true, logical: false }, [`${place}_${slot}`]: { size } },
    slotContents: { b: { build: other && BUILDS[other].fingerprint } },
    snapshot,
    mode: mode[0],
    batteryPercent: battery[0][0],
    batteryAge: battery[0][1],
  };
  return facts;
}

const same = (a: unknown, b: unknown): Truth => (a === b ? 'good' : 'bad');

/** The table: what is right, wrong or unknown of a pair, by how the file was made. */
function truthOf(pair: Pair): Readonly<Record<string, Truth>> {
  const { made, purpose, runs, other, slot, snapshot, device } = pair;
  const own = BUILDS[made.build];
  const slotBuild = slot === 'a' ? runs : other;
  return {
    build: slotBuild === null ? 'unknown' : same(made.build, slotBuild),
    handset: same(own.device, device),
    variant: runs === null ? 'good' : same(own.product, BUILDS[runs].product),
    partition: same(made.partition, pair.place),
    lock: pair.lock[1],
    battery: pair.battery[1],
    mode: pair.mode[1],
    size: pair.room[1],
    // the slot that runs is out of an update’s reach
    snapshot:
      slot === 'a' || snapshot === 'none' || snapshot === 'waiting'
        ? 'good'
        : snapshot === null
          ? 'unknown'
          : 'bad',
    proof: purpose === 'root' ? rootProof(pair) : stockProof(pair),
  };
}

function rootProof({ made: { how, build }, reference, withKit }: Pair): Truth {
  if (reference === null) return 'unknown';
  if (how === 'stock' || how === 'twice' || reference.build !== build) return 'bad';
  // our kit takes a file away and changes one: without the kit nobody says that this is as it should be
  return how === 'elsewhere' || (how === 'by our kit' && withKit) ? 'good' : 'unknown';
}

function stockProof({ made: { how, build }, reference }: Pair): Truth {
  // a kit’s note names a patch whatever it is held against; other patches show beside the stock image only
  if (how === 'by our kit') return 'bad';
  if (reference === null) return 'unknown';
  return how !== 'stock' ? 'bad' : same(reference.build, build);
}

const verdictOf = (truths: readonly Truth[]) =>
  truths.includes('bad') ? 'refused' : truths.includes('unknown') ? "can't tell" : 'allowed';

async function judged(pair: Pair) {
  const { made, reference, purpose, place, slot, withKit } = pair;
  const target = writeTargetOf(factsOf(pair), place, slot);
  const image = await openFile(made.path);
  const stock = reference && (await openFile(reference.path));
  try {
    const { image: seen, proof } = await weighWrite(
      { image, stock, package: null, kit: withKit && made.how === 'by our kit' ? kit : null },
      { purpose, target },
      nodePorts,
    );
    return judgeWrite({ purpose, image: seen, target, proof });
  } finally {
    await image.close();
    await stock?.close();
  }
}

describe('a thousand seeded files and handsets', () => {
  it('are judged as they were made', { timeout: 120_000 }, async () => {
    const draw = drawing(20_261);
    const seen = { allowed: 0, "can't tell": 0, refused: 0 };
    const alone = new Set<string>();
    for (let i = 0; i < 1000; i += 1) {
      const pair = drawPair(draw);
      const truth = truthOf(pair);
      const { verdict, checks } = await judged(pair);
      const expected = verdictOf(Object.values(truth));
      const against = checks.filter(({ holds }) => holds !== true).map(({ id, holds }) => `${id}: ${holds}`);
      expect({ i, verdict, ...(verdict === expected ? {} : { pair, truth, against }) }).toEqual({
        i,
        verdict: expected,
      });
      seen[verdict] += 1;
      const wrong = Object.entries(truth).filter(([, one]) => one !== 'good');
      if (wrong.length === 1) alone.add(wrong[0]!.join(' '));
    }
    expect(Object.values(seen).every((count) => count > 100)).toBe(true);
    // each thing was the only one that spoke against a write
    expect([...alone].sort()).toEqual(
      [
        'battery bad',
        'battery unknown',
        'build bad',
        'build unknown',
        'lock bad',
        'lock unknown',
        'mode bad',
        'mode unknown',
        'partition bad',
        'proof bad',
        'proof unknown',
        'size bad',
        'size unknown',
        'snapshot bad',
        'snapshot unknown',
        'variant bad',
      ].sort(),
    );
  });
});
