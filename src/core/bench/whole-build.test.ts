import { describe, expect, it } from 'vitest';
import { LIMITS } from '../limits';
import type { ImageReport } from '../packages/inspect-image';
import { plainImage, UNKNOWN_BUILD } from '../packages/package-report';
import type { KeptImage, OpenedPackage } from './bench';
import {
  isLogical,
  bootloaderLevel,
  bringsBootloader,
  passesThrough,
  stillToKeep,
  wholeMissing,
  wholePackage,
  wholeParts,
  writeTurns,
} from './whole-build';

/* Which images a build is made of, which are kept, which pass through, and in which order they are written. */

const OLD = 'club/hill_eu/hill:16/HC1.260805.001/8001:user/release-keys';
const NOW = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = 'club/hill_eu/hill:16/HC1.261005.002/9101:user/release-keys';
const LARGE = LIMITS.keptImageBytes + 1;

type Stated = string | readonly [partition: string, size: number | null, sha256?: string];
const pack = (
  fingerprint: string,
  images: readonly Stated[],
  { incremental = false, fileName = 'a.zip' } = {},
): OpenedPackage => ({
  id: fileName,
  fileName,
  sizeBytes: 1,
  report: {
    kind: 'update-zip',
    incremental,
    build: { ...UNKNOWN_BUILD, fingerprint },
    images: images.map((one) =>
      typeof one === 'string'
        ? plainImage(one, 4096)
        : plainImage(one[0], one[1], { sha256: one[2] ?? null, member: `${one[0]}.img` }),
    ),
    evidence: [],
    warnings: [],
    writes: [],
  },
  readBy: 'server',
  openedAt: 0,
});
const image = (partition: string, change: Partial<KeptImage> & { index?: number } = {}): KeptImage => ({
  sha256: `${partition} ${change.fingerprint ?? NOW}`,
  sizeBytes: 10,
  partition,
  role: 'stock',
  fingerprint: NOW,
  patchLevel: null,
  kit: null,
  stockSha256: null,
  recoverySha256: null,
  proof: null,
  judged: null,
  trust: null,
  report: {
    avb: change.index === undefined ? null : { rollbackIndex: change.index },
  } as unknown as ImageReport,
  addedAt: 0,
  ...change,
});
const own = (sizes: Readonly<Record<string, number | null>>) =>
  Object.fromEntries(
    Object.entries(sizes).map(([name, size]) => [name, { size, hasSlot: null, logical: null }]),
  );

describe('the package of a whole build', () => {
  it('is the one with its bootloader, then the one with most images, never an incremental one', () => {
    const packages = [
      pack(NOW, ['boot', 'system', 'vendor'], { fileName: 'most' }),
      pack(NOW, ['bootloader', 'boot'], { fileName: 'whole' }),
      pack(NOW, ['bootloader', 'boot', 'x', 'y'], { fileName: 'inc', incremental: true }),
      pack(NOW, [], { fileName: 'empty' }),
    ];
    expect(wholePackage({ packages }, NOW)?.fileName).toBe('whole');
    expect(
      wholePackage({ packages: packages.filter(({ fileName }) => fileName !== 'whole') }, NOW)?.fileName,
    ).toBe('most');
    expect(wholePackage({ packages: packages.slice(2) }, NOW)).toBeNull();
    expect(wholePackage({ packages }, NEXT)).toBeNull();
    expect(bringsBootloader({ packages }, NOW)).toBe(true);
    expect(bringsBootloader({ packages: packages.slice(0, 1) }, NOW)).toBe(false);
    // of a build that nobody opened it may bring one
    expect(bringsBootloader({ packages }, NEXT)).toBe(true);
  });
  it('tells the level of its bootloader by the stock image', () => {
    const images = [
      image('bootloader', { index: 4 }),
      image('bootloader', { index: 9, fingerprint: NEXT }),
      image('boot', { index: 2 }),
    ];
    expect(bootloaderLevel({ images }, NOW)).toBe(4);
    expect(
      bootloaderLevel({ images: images.map((one) => ({ ...one, role: 'unknown' as const })) }, NOW),
    ).toBeNull();
    expect(bootloaderLevel({ images }, OLD)).toBeNull();
  });
});

describe('an image of it', () => {
  it.each([
    ['boot', LIMITS.keptImageBytes, false],
    ['boot', LARGE, true],
    ['system', 4096, false],
    ['system', LARGE, true],
    // where only unpacking tells its size, its name does
    ['system', null, true],
    ['vendor_dlkm', null, true],
    ['super', null, true],
    ['vendor_boot', null, false],
    ['modem', null, false],
  ])('%s of %s bytes passes through: %s', (partition, size, passes) => {
    expect(passesThrough({ partition, size })).toBe(passes);
  });
  it('is told as the package has it, and as the vault has it where it is kept', () => {
    const packages = [pack(NOW, [['system', LARGE, 'aa'], ['boot', null, 'bb'], 'dtbo'])];
    const kept = image('boot');
    const parts = wholeParts({ packages, images: [kept, image('dtbo', { fingerprint: OLD })] }, NOW)!;
    expect(parts).toEqual([
      {
        partition: 'system',
        size: LARGE,
        sha256: 'aa',
        member: 'system.img',
        both: false,
        kept: null,
        passes: true,
      },
      {
        partition: 'boot',
        size: 10,
        sha256: kept.sha256,
        member: 'boot.img',
        both: false,
        kept,
        passes: false,
      },
      { partition: 'dtbo', size: 4096, sha256: null, member: null, both: false, kept: null, passes: false },
    ]);
    expect(stillToKeep(parts)).toEqual(['dtbo']);
    // a large one that somebody kept all the same comes from the vault
    const large = image('system', { sizeBytes: LARGE });
    expect(wholeParts({ packages, images: [large] }, NOW)![0]).toMatchObject({ kept: large, passes: false });
    expect(wholeParts({ packages, images: [] }, NEXT)).toBeNull();
  });
});

describe('what is missing of it', () => {
  const full = ['bootloader', 'boot', 'system'];
  it('is what is to be kept and is not in the vault in stock of that very build', () => {
    const packages = [pack(NOW, full)];
    const missing = (...images: KeptImage[]) => wholeMissing({ packages, images }, NOW, {});
    expect(missing()).toEqual(full);
    expect(missing(image('boot'), image('system'))).toEqual(['bootloader']);
    expect(
      missing(image('boot', { role: 'patched' }), image('bootloader', { fingerprint: OLD }), image('system')),
    ).toEqual(['bootloader', 'boot']);
    expect(wholeMissing({ packages: [], images: [image('boot')] }, NOW, {})).toBeNull();
  });
  it.each<[string, readonly Stated[], Readonly<Record<string, number | null>>, string[]]>([
    ['a system it always brings', ['boot'], {}, ['system']],
    ['one that passes through is there', [['system', LARGE]], {}, []],
    [
      'what the handset has of a build',
      ['system'],
      { boot_a: 1, boot_b: 1, vendor_a: 1 },
      ['boot', 'vendor'],
    ],
    ['not what the handset makes itself', ['system'], { userdata: 1, metadata: 1, misc: 1, super: 1 }, []],
    ['not what a build need not bring', ['system'], { bootloader_a: 1, radio_a: 1, persist: 1 }, []],
    ['nothing for a partition without room', ['system'], { odm_a: 0, vendor_dlkm_a: null }, ['vendor_dlkm']],
    ['all logical ones lie in its super image', [['super', LARGE]], { vendor_a: 1, dtbo_a: 1 }, ['dtbo']],
  ])('%s', (_, images, partitions, missing) => {
    const kept = images.flatMap((one) => (typeof one === 'string' ? [image(one)] : []));
    expect(wholeMissing({ packages: [pack(NOW, images)], images: kept }, NOW, own(partitions))).toEqual(
      missing,
    );
  });
});

describe('the order of its writes', () => {
  const turns = (names: readonly string[], logical: readonly string[]) =>
    writeTurns(
      names.map((partition) => ({ partition })),
      (name) => logical.includes(name),
    ).map((turn) => (turn.do === 'write' ? turn.part.partition : `> ${turn.into}`));
  it('is bootloader and radio with a restart each, the rest as it comes, logical ones last', () => {
    expect(turns(['system', 'dtbo', 'radio', 'boot', 'bootloader', 'vendor'], ['system', 'vendor'])).toEqual([
      'bootloader',
      '> bootloader',
      'radio',
      '> bootloader',
      'dtbo',
      'boot',
      '> userspace',
      'system',
      'vendor',
      '> bootloader',
    ]);
  });
  it('restarts nowhere where there is nothing to restart for', () => {
    expect(turns(['system', 'boot'], [])).toEqual(['system', 'boot']);
    expect(turns([], ['system'])).toEqual([]);
    expect(turns(['radio'], [])).toEqual(['radio', '> bootloader']);
  });
});

describe('a logical partition', () => {
  const read = (partitions: Readonly<Record<string, boolean | null>>, slotCount: number | null = 2) => ({
    slotCount,
    partitions: Object.fromEntries(
      Object.entries(partitions).map(([name, logical]) => [name, { size: null, hasSlot: null, logical }]),
    ),
  });
  it('is what the bootloader said it is, under its bare name or one with a slot', () => {
    for (const name of ['odd', 'odd_a', 'odd_b']) {
      expect(isLogical(read({ [name]: true }), 'odd'), name).toBe(true);
      expect(isLogical(read({ [name]: false }), 'odd'), name).toBe(false);
    }
    expect(isLogical(read({ system_a: false }), 'system')).toBe(false);
  });
  it('is guessed by its name where that was never read, and only where there are two slots', () => {
    expect(isLogical(read({}), 'system')).toBe(true);
    expect(isLogical(read({ system_a: null }), 'system')).toBe(true);
    expect(isLogical(read({}), 'boot')).toBe(false);
    expect(isLogical(read({}, 1), 'system')).toBe(false);
    expect(isLogical(read({}, null), 'system')).toBe(false);
  });
});
