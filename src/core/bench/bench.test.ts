import { NO_WAYS } from '../ways/way-kinds';
import { describe, expect, it } from 'vitest';
import type { HandsetFacts } from '../formats/facts/parse-facts';
import { interpretFacts } from '../formats/facts/parse-facts';
import type { ImageReport } from '../packages/inspect-image';
import { UNKNOWN_BUILD } from '../packages/package-report';
import type { Bench, KeptImage, KeptKit, KeptRecovery, KnownBuild, OpenedPackage, Subject } from './bench';
import {
  dataFor,
  feasibilityOf,
  floorsFor,
  fullPackageOf,
  kitFits,
  kitFor,
  kitOnIt,
  nextBuild,
  readinessOf,
  recoveriesFor,
  recoveriesShelved,
  recoveryOf,
  rootOf,
  slotsToWrite,
} from './judgements';
import { knownBuilds } from './known-builds';
import { contextOf, likelyGoal } from './planning-context';
import { dataIsAtFault } from './start-state';
import { judgeModules } from './modules-judged';

/* What all that is kept says of one handset. */

const OLD = 'club/hill_eu/hill:16/HC1.260805.001/8001:user/release-keys';
const NOW = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = 'club/hill_eu/hill:16/HC1.261005.002/9101:user/release-keys';
const OTHER = 'club/dale_eu/dale:16/DC1.261105.002/9101:user/release-keys';

const build = (fingerprint: string, publishedAt: number, patchLevel: string | null = null): KnownBuild => ({
  fingerprint,
  device: fingerprint.split('/')[2]!.split(':')[0]!,
  product: fingerprint.split('/')[1]!,
  buildId: fingerprint.split('/')[3]!,
  patchLevel,
  publishedAt,
});
const image = (
  partition: string,
  change: Partial<KeptImage> & { ramdisk?: boolean; index?: number } = {},
): KeptImage => ({
  sha256: `${partition} ${change.role ?? 'stock'} ${change.fingerprint ?? NOW}`,
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
    ramdisk: change.ramdisk === true ? { compression: 'lz4', size: 1 } : null,
    avb: change.index === undefined ? null : { rollbackIndex: change.index },
    sections: [],
  } as unknown as ImageReport,
  addedAt: 0,
  ...change,
});
const pack = (
  fingerprint: string,
  partitions: readonly string[],
  change: { incremental?: boolean; fileName?: string } = {},
): OpenedPackage => ({
  id: change.fileName ?? fingerprint,
  fileName: change.fileName ?? 'a.zip',
  sizeBytes: 1,
  report: {
    kind: 'update-zip',
    incremental: change.incremental ?? false,
    build: { ...UNKNOWN_BUILD, fingerprint },
    images: partitions.map((partition) => ({ partition, slots: null })),
    evidence: [],
    warnings: [],
    writes: [],
  } as unknown as OpenedPackage['report'],
  readBy: 'server',
  openedAt: 0,
});
const kit = (supports: KeptKit['supports']): KeptKit => ({
  sha256: 'k',
  kitId: 'burrow',
  name: 'Burrow',
  version: '7.3',
  versionCode: 73,
  channel: 'stable',
  supports,
  restsAfter: null,
  changesKernel: false,
  leastApp: null,
  fileName: 'k.zip',
  sizeBytes: 1,
  addedAt: 0,
});
describe('the kit that runs on it', () => {
  const images = [
    { sha256: 'ours', kit: 'burrow 7.3' },
    { sha256: 'stock', kit: null },
    { sha256: 'gone', kit: 'burrow 6' },
  ] as never;
  const on = (lies: string | null, slot = 'a', partition = 'init_boot') =>
    kitOnIt(
      {
        facts: { typed: { currentSlot: 'a' } } as never,
        cells: [{ partition, slot, sha256: lies }] as never,
      },
      { images, kits: [kit({ sdk: null, partitions: null })] },
      'init_boot',
    )?.version;
  it('is the one that patched what lies on the running slot', () => {
    expect(on('ours')).toBe('7.3');
    expect(on('ours', '-')).toBe('7.3');
    for (const other of [on('ours', 'b'), on('ours', 'a', 'boot'), on('stock'), on('gone'), on(null)])
      expect(other).toBeUndefined();
  });
});

const recovery = (change: Partial<KeptRecovery> = {}): KeptRecovery => ({
  id: 'r',
  name: 'Lifeboat',
  version: '4',
  channel: 'stable',
  devices: ['hill'],
  sdkFrom: 33,
  sdkTo: 36,
  opensUpTo: null,
  sha256: null,
  note: '',
  addedAt: 0,
  ...change,
});
const NOTHING: Bench = {
  builds: [build(OLD, 1, '2026-08-05'), build(NOW, 2, '2026-09-05')],
  images: [],
  packages: [],
  kits: [],
  recoveries: [],
  trials: [],
  modules: [],
  moduleTrials: [],
  damaged: new Set(),
  offered: null,
  quiet: [],
};
const PRINTED = {
  'ro.build.fingerprint': NOW,
  'ro.product.device': 'hill',
  'ro.build.version.sdk': '36',
  'ro.build.version.release': '16',
  'ro.build.version.security_patch': '2026-09-05',
  'ro.product.first_api_level': '30',
  'ro.boot.slot_suffix': '_a',
};
const subject = (
  facts: Partial<HandsetFacts> = {},
  told: Readonly<Record<string, string>> = {},
  change: Partial<Subject> = {},
): Subject => ({
  handset: { id: 'h', name: 'North', model: 'Hill 2', link: 'stand-in' },
  facts: {
    typed: { ...interpretFacts(PRINTED), slotCount: 2, ...facts },
    value: (key) => told[key] ?? null,
    dataPatchLevel: '2026-09-05',
  },
  cells: [],
  ways: NO_WAYS,
  root: 'stock',
  history: { openPutBacks: [] },
  ...change,
});
const cell = (partition: string, slot: string, sha256: string | null, verdict = 'read') =>
  ({ partition, slot, sha256, verdict }) as never;

describe('where root sits', () => {
  it('is what images of the installed build show, and of no other', () => {
    const own = [image('init_boot', { ramdisk: true }), image('boot')];
    expect(rootOf(subject(), { ...NOTHING, images: own })).toMatchObject({
      partition: 'init_boot',
      sure: true,
    });
    const others = own.map((one) => ({ ...one, fingerprint: OLD }));
    expect(rootOf(subject(), { ...NOTHING, images: others })).toMatchObject({
      partition: 'boot',
      sure: false,
    });
    const patched = own.map((one) => ({ ...one, role: 'patched' as const }));
    expect(rootOf(subject(), { ...NOTHING, images: patched }).sure).toBe(false);
  });
  it('is what a whole package of the installed build lists; an incremental one says nothing', () => {
    const whole = { ...NOTHING, packages: [pack(NOW, ['init_boot', 'boot'])] };
    expect(rootOf(subject(), whole).opinions.map(({ witness }) => witness)).toContain('package');
    for (const none of [
      pack(NOW, ['init_boot', 'boot'], { incremental: true }),
      pack(NEXT, ['init_boot', 'boot']),
    ])
      expect(
        rootOf(subject(), { ...NOTHING, packages: [none] }).opinions.map(({ witness }) => witness),
      ).not.toContain('package');
  });
});

describe('where its recovery lives', () => {
  const home = (bench: Partial<Bench>, facts: Partial<HandsetFacts> = {}) => {
    const all = { ...NOTHING, ...bench };
    return recoveryOf(subject(facts), all, rootOf(subject(facts), all)).home;
  };
  it('is told by its own partitions, or by a package of its own build', () => {
    expect(home({})).toBeNull();
    expect(home({}, { partitions: { recovery: { size: 1, hasSlot: null, logical: null } } })).toBe(
      'own partition',
    );
    expect(home({ packages: [pack(NOW, ['boot', 'recovery'])] })).toBe('own partition');
    expect(home({ packages: [pack(NEXT, ['boot', 'recovery'])] })).toBeNull();
  });
  it('is told by the ramdisks of its own stock vendor_boot, and of no other', () => {
    const vendor = (change: Partial<KeptImage> = {}) =>
      image('vendor_boot', {
        report: { ...image('vendor_boot').report, ramdisks: [{ type: 'recovery' }] } as never,
        ...change,
      });
    expect(home({ images: [vendor()] })).toBe('vendor_boot');
    for (const change of [{ fingerprint: OLD }, { role: 'unknown' as const }, { partition: 'vendor' }])
      expect(home({ images: [vendor(change)] }), JSON.stringify(change)).toBeNull();
  });
});

describe('slots to write', () => {
  it('are those that the package of the installed build names', () => {
    const root = rootOf(subject(), NOTHING);
    const both = {
      ...pack(NOW, []),
      report: { ...pack(NOW, []).report, images: [{ partition: 'boot', slots: 'both' }] as never },
    };
    expect(slotsToWrite(subject(), { ...NOTHING, packages: [both] }, root)).not.toEqual(
      slotsToWrite(subject(), NOTHING, root),
    );
    const foreign = {
      ...both,
      report: { ...both.report, build: { ...both.report.build, fingerprint: NEXT } },
    };
    expect(slotsToWrite(subject(), { ...NOTHING, packages: [foreign] }, root)).toEqual(
      slotsToWrite(subject(), NOTHING, root),
    );
  });
});

describe('kits and recoveries', () => {
  it.each([
    [{ sdk: [33, 36], partitions: ['boot'] }, 'boot', 36, true],
    [{ sdk: [33, 36], partitions: ['boot'] }, 'boot', 33, true],
    [{ sdk: [33, 36], partitions: ['boot'] }, 'boot', 37, false],
    [{ sdk: [33, 36], partitions: ['boot'] }, 'boot', 32, false],
    [{ sdk: [33, 36], partitions: ['boot'] }, 'init_boot', 36, false],
    [{ sdk: [33, 36], partitions: ['boot'] }, 'boot', null, true],
    [{ sdk: null, partitions: null }, 'anything', 99, true],
  ] as const)('a kit for %j on %s at level %s: %s', (supports, partition, sdk, fits) => {
    expect(kitFor({ kits: [kit(supports as KeptKit['supports'])] }, partition, sdk) !== null).toBe(fits);
  });
  it.each([
    [{}, {}, 1],
    [{ devices: ['dale'] }, {}, 0],
    [{ sdkTo: 35 }, {}, 0],
    [{ sdkFrom: 37, sdkTo: 38 }, {}, 0],
    [{ sdkFrom: null, sdkTo: null }, {}, 1],
    [{}, { device: null }, 0],
    [{ sdkTo: 35 }, { sdk: null }, 1],
  ] as const)('a recovery with %j for a handset with %j: %d', (change, facts, count) => {
    const bench = { ...NOTHING, recoveries: [recovery(change)] };
    expect(recoveriesFor(subject(facts), bench)).toHaveLength(count);
  });
  it('only a recovery whose image is in the vault can be written', () => {
    const bench = { ...NOTHING, recoveries: [recovery({ sha256: 'there' })] };
    expect(recoveriesShelved(subject(), bench)).toEqual([]);
    expect(
      recoveriesShelved(subject(), { ...bench, images: [image('recovery', { sha256: 'there' })] }),
    ).toHaveLength(1);
  });
});

describe('the next build', () => {
  it('is the newest known of its own product, where that is another one', () => {
    const bench = { ...NOTHING, builds: [...NOTHING.builds, build(NEXT, 3), build(OTHER, 4)] };
    expect(nextBuild(subject(), bench)?.fingerprint).toBe(NEXT);
    expect(nextBuild(subject(), NOTHING)).toBeNull();
    expect(knownBuilds(subject(), bench)).toEqual([OLD, NOW, NEXT]);
  });
  it('is ready to be taken with its package, a kit for its level and the way back; each of them missing is said', () => {
    const rooted = subject({}, {}, { root: 'proven' });
    const whole = {
      ...NOTHING,
      builds: [...NOTHING.builds, build(NEXT, 3)],
      kits: [kit({ sdk: [33, 36], partitions: ['boot'] })],
      images: [image('boot', { ramdisk: true })],
      packages: [pack(NEXT, ['boot'])],
    };
    const verdict = (change: Partial<Bench> = {}, who = rooted) => {
      const bench = { ...whole, ...change };
      return readinessOf(who, bench, rootOf(who, bench)).verdict;
    };
    expect(verdict()).toBe('go');
    expect(verdict({ packages: [] })).toBe("can't tell");
    expect(verdict({ kits: [] })).toBe('hold');
    expect(verdict({ kits: [kit({ sdk: [33, 35], partitions: ['boot'] })] })).toBe('hold');
    expect(verdict({ kits: [kit({ sdk: [33, 36], partitions: ['init_boot'] })] })).toBe('hold');
    expect(verdict({ images: [] })).toBe('hold');
    expect(verdict({ damaged: new Set([whole.images[0]!.sha256]) })).toBe('hold');
    expect(verdict({ damaged: new Set(['another']) })).toBe('go');
    expect(verdict({ kits: [], images: [] }, subject())).toBe('go');
    expect(verdict({ builds: NOTHING.builds })).toBe('up to date');
    expect(verdict({}, subject({}, { snapshot: 'merging' }, { root: 'proven' }))).toBe('hold');
    const trials = [
      {
        shelf: 'kit',
        item: 'burrow 7.3',
        fingerprint: NEXT,
        handsetId: null,
        outcome: 'looped',
        note: '',
        at: 0,
      },
    ] as const;
    expect(verdict({ trials })).toBe('hold');
    expect(verdict({ trials: [{ ...trials[0], shelf: 'recovery' }] })).toBe('go');
  });
});

describe('floors and data', () => {
  it('are held against the stock image of the installed build', () => {
    const bench = {
      ...NOTHING,
      images: [image('boot', { ramdisk: true, index: 7, patchLevel: '2026-09-05' })],
    };
    const root = rootOf(subject(), bench);
    const low = floorsFor(subject({ unlocked: false }, { storedIndex: '8' }), bench, root);
    const high = floorsFor(subject({ unlocked: false }, { storedIndex: '7' }), bench, root);
    expect(low).not.toEqual(high);
    expect(dataFor(subject(), bench, root)).toMatchObject({
      image: '2026-09-05',
      system: '2026-09-05',
      data: '2026-09-05',
    });
    // the level of the image that lies there, and of none beside it
    const images = [
      image('dtbo', { patchLevel: '2026-07-05' }),
      image('boot', { ramdisk: true, patchLevel: '2026-08-05' }),
      image('boot', { fingerprint: OLD, patchLevel: '2026-06-05' }),
    ];
    const sits = rootOf(subject(), { ...NOTHING, images });
    expect(dataFor(subject(), { ...NOTHING, images }, sits).image).toBe('2026-08-05');
    expect(dataFor(subject(), { ...NOTHING, images }, { ...sits, partition: null }).image).toBe('2026-09-05');
  });
});

describe('a full package of a build', () => {
  it('is one of that build that starts from nothing', () => {
    const incremental = pack(NOW, ['boot'], { incremental: true, fileName: 'inc' });
    const full = pack(NOW, ['boot'], { fileName: 'full' });
    const packages = [incremental, pack(NEXT, ['boot'], { fileName: 'next' }), full];
    expect(fullPackageOf({ packages }, NOW)?.fileName).toBe('full');
    expect(fullPackageOf({ packages: packages.slice(0, 2) }, NOW)).toBeUndefined();
    expect(fullPackageOf({ packages }, OLD)).toBeUndefined();
  });
});

describe('the floors of a handset', () => {
  it.each([
    ['locked', false, '8', 'below'],
    ['locked', false, '7', 'above'],
    ['unlocked', true, '8', 'does not count'],
    ['unlocked', true, '7', 'does not count'],
    ['nobody knows which', null, '8', 'below'],
    ['nobody knows which', null, '7', 'above'],
    ['locked, its index never read', false, null, 'unknown'],
  ] as const)('%s: the stored index (unlocked %s, %s) is %s', (_, unlocked, stored, verdict) => {
    const bench = { ...NOTHING, images: [image('boot', { ramdisk: true, index: 7 })] };
    const who = subject({ unlocked }, stored === null ? {} : { storedIndex: stored });
    const floors = floorsFor(who, bench, rootOf(who, bench));
    expect(floors.find(({ id }) => id === 'stored index')?.verdict).toBe(verdict);
    // root alone writes no bootloader
    expect(floors.find(({ id }) => id === 'fuse')?.verdict).toBe('does not count');
  });
  it('are those of the stock image of root, and of no other', () => {
    const foreign = [
      image('boot', { index: 7, role: 'patched' }),
      image('boot', { index: 7, fingerprint: OLD }),
      image('dtbo', { index: 7 }),
    ];
    const who = subject({ unlocked: false }, { storedIndex: '8' });
    const root = rootOf(who, { ...NOTHING, images: [image('boot', { ramdisk: true })] });
    for (const one of foreign)
      expect(
        floorsFor(who, { ...NOTHING, images: [one] }, root).find(({ id }) => id === 'stored index')?.verdict,
        one.sha256,
      ).toBe('unknown');
  });
});

describe('a backup before a wipe', () => {
  const DAY = 86_400_000;
  it.each([
    [null, 'unknown'],
    [15 * DAY, 'no'],
    [14 * DAY, 'yes'],
    [14 * DAY + DAY - 1, 'yes'],
    [0, 'yes'],
  ])('%s ms old', (age, answer) => {
    const who = subject();
    const now = 100 * DAY;
    const lastBackupAt = age === null ? null : now - age;
    const { questions } = feasibilityOf(
      who,
      NOTHING,
      rootOf(who, NOTHING),
      { dependencies: [], clocks: [], lastBackupAt, backupLacks: null },
      now,
    );
    expect(questions.find(({ id }) => id === 'backup')?.answer).toBe(answer);
  });
});

describe('a plan’s context', () => {
  const wish = { goal: null, target: null, limits: { computer: true, wipeAllowed: false, keepFuse: false } };
  const learnt = { pace: {}, edges: [] };
  const bench = {
    ...NOTHING,
    builds: [...NOTHING.builds, build(NEXT, 3)],
    kits: [kit({ sdk: [33, 36], partitions: ['boot'] })],
  };
  const made = (
    who: Subject,
    where: Bench = bench,
    more: Partial<Parameters<typeof contextOf>[2]> = {},
    log: Parameters<typeof contextOf>[3] = learnt,
  ) => {
    const found = contextOf(who, where, { ...wish, ...more }, log);
    if (typeof found === 'string') throw new Error(found);
    return found;
  };
  it('needs the build, and says so', () => {
    expect(contextOf(subject({ fingerprint: null }), bench, wish, learnt)).toBe(
      'Its build is not known yet.',
    );
    expect(contextOf(subject({ firstApiLevel: null }), bench, wish, learnt)).toBe(
      'Where root sits is not known yet.',
    );
  });
  it.each([
    ['stock', true, 'first root'],
    ['proven', true, 'monthly update'],
    ['proven', false, 'keep a recovery'],
    ['lost', true, 'root again'],
    ['broken', false, 'repair'],
  ] as const)('with root %s and a newer build %s wants: %s', (root, behind, goal) => {
    expect(likelyGoal({ root }, behind)).toBe(goal);
  });
  it('takes the newest build for an update, the one before for a way down, and what is asked for before both', () => {
    expect(made(subject({}, {}, { root: 'proven' })).context.target).toBe(NEXT);
    expect(made(subject(), bench, { goal: 'downgrade' }).context.target).toBe(OLD);
    expect(made(subject(), bench, { goal: 'monthly update', target: OLD }).context.target).toBe(OLD);
    expect(made(subject(), bench, { goal: 'first root' }).context.target).toBe(NOW);
  });
  it('says what it takes for granted, each once, and no more of what is known', () => {
    const { assumptions } = made(subject({ slotCount: null, unlocked: null }));
    const codes = assumptions.map(({ code }) => code);
    expect(codes).toEqual(expect.arrayContaining(['two-slots', 'unlocked']));
    expect(new Set(codes).size).toBe(codes.length);
    const known = made(subject({ unlocked: true }, { downloadMode: 'false' })).assumptions.map(
      ({ code }) => code,
    );
    for (const code of ['two-slots', 'unlocked', 'no-download']) expect(known).not.toContain(code);
  });
  it('counts what is in the vault by its build: no image that names none, and none of another partition', () => {
    const images = [
      image('boot', { sha256: 's', ramdisk: true }),
      image('boot', { sha256: 'n', fingerprint: null }),
      image('dtbo', { sha256: 'd', fingerprint: NEXT }),
      image('boot', { sha256: 'p', role: 'patched', fingerprint: OLD, proof: null }),
    ];
    expect(made(subject(), { ...bench, images }).context.kept).toEqual([`stock ${NOW}`]);
  });
  it.each([
    [2, undefined, true],
    [2, 'true', true],
    [2, 'false', false],
    [1, 'true', false],
  ] as const)('with %d slots and snapshots said to be %s merges updates: %s', (slotCount, told, merges) => {
    const who = subject({ slotCount }, told === undefined ? {} : { virtualAb: told });
    expect(made(who).context.profile.mergesUpdates).toBe(merges);
  });
  it('takes the bootloader of a build for one above a fuse that was read, and says nothing of a fuse that was not', () => {
    const ofFuse = (told: Readonly<Record<string, string>>, where: Bench = bench) =>
      made(subject({}, told), where).assumptions.filter(({ code }) => code === 'target-fuse').length;
    expect(ofFuse({})).toBe(0);
    expect(ofFuse({ antiRollback: '2' })).toBe(1);
    const known = { ...bench, images: [image('bootloader', { index: 3 })] };
    expect(ofFuse({ antiRollback: '2' }, known)).toBe(0);
  });
  it('knows a way down by its builds, and none that was refused once', () => {
    const edge = {
      device: 'hill',
      fromBuild: NOW.split('/')[3]!,
      toBuild: OLD.split('/')[3]!,
      allowed: 'yes',
      bootloader: 3,
      note: '',
    } as const;
    const open = made(subject(), bench, {}, { pace: {}, edges: [edge] }).context.profile;
    expect(open.sideloadsDown).toEqual([{ from: NOW, to: OLD, bootloader: 3 }]);
    expect(Object.keys(open.partitionBytes)).toContain('bootloader');
    for (const edges of [[edge, { ...edge, allowed: 'no' as const }], [{ ...edge, device: 'dale' }]])
      expect(made(subject(), bench, {}, { pace: {}, edges }).context.profile.sideloadsDown).toEqual([]);
  });
  it('lends the bootloader of an older build that was noted, can be had, and is not below a fuse that was read', () => {
    const idOf = (build: string) => build.split('/')[3]!;
    const noted = (...builds: string[]) =>
      ((id: string) =>
        id === 'loose-builds'
          ? { value: builds.map(idOf), sureness: 'only said', source: 'a list', at: 1 }
          : null) as Subject['ways'];
    const lent = (ways: Subject['ways'], where: Bench = bench, told = { antiRollback: '2' } as object) =>
      made(subject({}, told as Readonly<Record<string, string>>, { ways }), where).context.looseBuild;
    expect(lent(noted(OLD))).toBe(OLD);
    // a newer one, and the installed one itself, are not put in for a while
    expect(lent(noted(NEXT))).toBeUndefined();
    expect(lent(noted(NOW))).toBeUndefined();
    expect(lent(noted(OLD, NEXT))).toBe(OLD);
    expect(lent(noted(OLD), bench, {})).toBeUndefined();
    expect(lent(noted(OLD), { ...bench, offered: new Set([NOW]) })).toBeUndefined();
    const level = (index: number) => ({
      ...bench,
      images: [image('bootloader', { fingerprint: OLD, index })],
    });
    expect([lent(noted(OLD), level(1)), lent(noted(OLD), level(2))]).toEqual([undefined, OLD]);
  });
  it('has on each slot what was told of it, and takes a cut write for what does not start', () => {
    const patched = image('boot', { role: 'patched', sha256: 'p' });
    const stock = image('boot', { sha256: 's', ramdisk: true });
    const where = { ...bench, images: [patched, stock] };
    const { start } = made(
      subject({}, {}, { cells: [cell('boot', 'b', 'p'), cell('boot', 'a', null, 'unknown')] }),
      where,
    ).context;
    expect(start.images['boot_b']!.patchedBy).not.toBeNull();
    expect(start.images['boot_a']!.broken).toBe('its write was cut short');
    const rooted = made(subject({}, {}, { root: 'proven', cells: [cell('boot', 'a', 's')] }), where).context
      .start;
    expect(rooted.images['boot_a']!.patchedBy).not.toBeNull();
    expect(rooted).toMatchObject({ mode: 'system', running: { slot: 'a', rooted: true }, rootApp: 'ready' });
  });
  it('locks over nothing that was not seen', () => {
    const { start } = made(
      subject(),
      { ...bench, images: [image('boot', { sha256: 's', ramdisk: true })] },
      { goal: 'lock again' },
    ).context;
    expect(start.images['boot_a']!.broken).toBe('it was never read');
  });
  it('with an update that waits stands before its restart', () => {
    const { start } = made(subject({}, { snapshot: 'snapshotted' }, { root: 'proven' })).context;
    expect(start).toMatchObject({
      active: 'b',
      update: { slot: 'b', build: NEXT },
      snapshot: 'waiting',
      builds: { a: NOW, b: NEXT },
    });
    expect(made(subject({}, { snapshot: 'merging' }, { root: 'proven' })).context.start).toMatchObject({
      active: 'a',
      update: null,
      snapshot: 'merging',
    });
  });
  it('of a handset that does not start blames its data only where its image is known to be stock', () => {
    const where = { ...bench, images: [image('boot', { sha256: 's', ramdisk: true })] };
    const broken = (sha256: string | null) =>
      subject({}, {}, { root: 'broken', cells: sha256 === null ? [] : [cell('boot', 'a', sha256)] });
    expect(dataIsAtFault(broken('s'), where, 'boot')).toBe(true);
    expect(dataIsAtFault(broken(null), where, 'boot')).toBe(false);
    expect(dataIsAtFault({ ...broken('s'), root: 'proven' }, where, 'boot')).toBe(false);
    expect(made(broken('s'), where).context.start).toMatchObject({
      mode: 'looping',
      running: null,
      data: { keyLevel: '9999-12-31' },
    });
    expect(made(broken(null), where).context.start.images['boot_a']!.broken).toBe('it does not start');
  });
  it('takes a kit by the level of the release that comes', () => {
    const major = NEXT.replace(':16/', ':17/');
    const where = { ...bench, builds: [...NOTHING.builds, build(major, 3)] };
    expect(made(subject(), where, { goal: 'major upgrade' }).context.kit).toBeNull();
    expect(made(subject(), where, { goal: 'first root' }).context.kit).toBe('burrow 7.3');
  });
});

describe('before a wipe', () => {
  const about = (facts: Partial<HandsetFacts>, bench: Partial<Bench> = {}) => {
    const where = { ...NOTHING, kits: [kit({ sdk: [33, 36], partitions: null })], ...bench };
    const who = subject(facts);
    const notes = { dependencies: [], clocks: [], lastBackupAt: null, backupLacks: null };
    return feasibilityOf(who, where, rootOf(who, where), notes, 0).questions.find(({ id }) => id === 'kit')!;
  };
  it('a package without a build is not at hand for a handset whose build is not known', () => {
    const nameless = {
      ...pack(NOW, ['boot']),
      report: {
        ...pack(NOW, ['boot']).report,
        build: { ...pack(NOW, ['boot']).report.build, fingerprint: null },
      },
    };
    const where = { ...NOTHING, packages: [nameless] };
    const at = (fingerprint: string | null) => {
      const who = subject({ fingerprint });
      return feasibilityOf(
        who,
        where,
        rootOf(who, where),
        { dependencies: [], clocks: [], lastBackupAt: null, backupLacks: null },
        0,
      ).questions;
    };
    const bare = subject({ fingerprint: null });
    const without = feasibilityOf(
      bare,
      NOTHING,
      rootOf(bare, NOTHING),
      { dependencies: [], clocks: [], lastBackupAt: null, backupLacks: null },
      0,
    ).questions;
    expect(at(null)).toEqual(without);
  });
  it('without its platform level nobody says which kits support it', () => {
    expect(about({ sdk: null }).says).toEqual({ code: 'level-unknown' });
    expect(about({ sdk: 36 }).says).toMatchObject({ code: 'kit' });
    expect(about({ sdk: 37 }).says).toEqual({ code: 'no-kit' });
  });
});

describe('what is kept of a whole build', () => {
  it('is told to the planner only where no image of it is missing', () => {
    const package_ = pack(NOW, ['bootloader', 'boot', 'system']);
    const images = [image('bootloader'), image('boot', { ramdisk: true }), image('system')];
    const kept = (bench: Partial<Bench>) => {
      const found = contextOf(
        subject(),
        { ...NOTHING, packages: [package_], kits: [kit({ sdk: null, partitions: null })], ...bench },
        { goal: 'first root', target: null, limits: { computer: true, wipeAllowed: true, keepFuse: false } },
        { pace: {}, edges: [] },
      );
      return typeof found === 'string' ? found : found.context.kept;
    };
    expect(kept({ images })).toContain(`whole ${NOW}`);
    expect(kept({ images: images.slice(1) })).not.toContain(`whole ${NOW}`);
    expect(kept({ images: images.slice(1) })).toContain(`package ${NOW}`);
  });
});

describe('a kit', () => {
  it.each([
    [[33, 36], ['boot'], 'boot', 33, true],
    [[33, 36], ['boot'], 'boot', 36, true],
    [[33, 36], ['boot'], 'boot', 32, false],
    [[33, 36], ['boot'], 'boot', 37, false],
    [[33, 36], ['boot'], 'init_boot', 34, false],
    [[33, 36], ['boot'], null, 34, true],
    [[33, 36], ['boot'], 'boot', null, true],
    [null, ['boot'], 'boot', 99, true],
    [null, null, 'vendor_boot', 1, true],
  ] as const)('of levels %j for %j, on %s at %s: %s', (sdk, partitions, partition, level, fits) =>
    expect(kitFits(kit({ sdk, partitions }), partition, level)).toBe(fits),
  );
});

describe('the kernel between two builds', () => {
  const boot = (fingerprint: string, kernel: string | null, change: Partial<KeptImage> = {}) =>
    image('boot', {
      fingerprint,
      report: {
        sections: kernel === null ? [] : [{ name: 'kernel', sha256: kernel }],
      } as unknown as ImageReport,
      ...change,
    });
  it.each<[string, readonly KeptImage[], boolean | null]>([
    ['the same', [boot(NOW, 'k'), boot(NEXT, 'k')], false],
    ['another', [boot(NOW, 'k'), boot(NEXT, 'l')], true],
    ['only the newer at hand', [boot(NEXT, 'k')], null],
    ['only the older at hand', [boot(NOW, 'k')], null],
    ['one image without a kernel', [boot(NOW, null), boot(NEXT, 'k')], null],
    ['one of them not stock', [boot(NOW, 'k', { role: 'patched' }), boot(NEXT, 'k')], null],
    ['none at hand', [], null],
  ])('%s', (_what, images, changed) =>
    expect(judgeModules({ ...NOTHING, images }, [], NOW, NEXT).kernelChanged).toBe(changed),
  );
});

describe('the way it is unlocked', () => {
  it.each([
    ['mailed code', 'mailed code'],
    ['key chord', 'key chord'],
    ['none', 'none'],
    ['command', 'command'],
    ['anything else', 'command'],
    [undefined, 'command'],
  ])('said to be %s is %s', (told, path) => {
    const who = subject({}, told === undefined ? {} : { unlockPath: told });
    const found = contextOf(
      who,
      { ...NOTHING, kits: [kit({ sdk: null, partitions: null })] },
      { goal: 'first root', target: null, limits: { computer: true, wipeAllowed: true, keepFuse: false } },
      { pace: {}, edges: [] },
    );
    expect(found).toMatchObject({ context: { profile: { unlockPath: path } } });
  });
});
