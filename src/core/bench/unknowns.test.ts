import { NO_WAYS } from '../ways/way-kinds';
import { describe, expect, it } from 'vitest';
import { interpretFacts } from '../formats/facts/parse-facts';
import { PLAIN_PROFILE } from '../handset/state';
import type { GoalId } from '../planning/context';
import type { Subject } from './bench';
import { contextOf } from './planning-context';
import { otherSlotRead, unknownOf } from './unknowns';

/* What nobody has read of a handset: what is asked before the first change, and what is not promised. */

const NOW = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = 'club/hill_eu/hill:16/HC1.261005.002/9101:user/release-keys';
const PRINTED = {
  'ro.build.fingerprint': NOW,
  'ro.product.device': 'hill',
  'ro.build.version.sdk': '36',
  'ro.product.first_api_level': '30',
  'ro.boot.slot_suffix': '_a',
};

interface Told {
  readonly told?: Readonly<Record<string, string>>;
  readonly link?: 'hand' | 'stand-in';
  readonly typed?: Partial<Subject['facts']['typed']>;
  readonly root?: Subject['root'];
  readonly cells?: readonly { readonly slot: string; readonly sha256: string | null }[];
}
const subject = ({
  told = {},
  link = 'hand',
  typed = {},
  root = 'stock',
  cells = [],
}: Told = {}): Subject => ({
  handset: { id: 'h', name: 'North', model: 'Hill 2', link },
  facts: {
    typed: { ...interpretFacts(PRINTED), slotCount: 2, unlocked: true, ...typed },
    value: (key) => told[key] ?? null,
    dataPatchLevel: null,
  },
  cells: cells.map((cell) => ({ partition: 'boot', verdict: 'read', ...cell })) as never,
  root,
  history: { openPutBacks: [] },
  ways: NO_WAYS,
});
type Slots = Parameters<typeof unknownOf>[1];
const TWO: Slots = { slotCount: 2, mergesUpdates: true };
const asked = (told: Told, goal: GoalId = 'first root', change: Partial<Slots> = {}) =>
  unknownOf(subject(told), { ...TWO, ...change }, { goal, locked: told.typed?.unlocked === false });
const SETTLED = { snapshot: 'none' };

describe('what is asked before the first change', () => {
  it.each<[string, Told, GoalId, string[]]>([
    ['nothing where all is known', { told: SETTLED }, 'first root', []],
    ['an update under way', {}, 'first root', ['snapshot']],
    ['nothing where nothing is changed', {}, 'prove root', []],
    ['nothing of one that does not run', { root: 'broken' }, 'return to stock', []],
    ['the switch of a locked one', { told: SETTLED, typed: { unlocked: false } }, 'first root', ['switch']],
    [
      'no switch that was read',
      { told: { ...SETTLED, unlockAllowed: 'on' }, typed: { unlocked: false } },
      'first root',
      [],
    ],
    ['root', { told: SETTLED, root: 'unknown' }, 'monthly update', ['root']],
    ['no root where the first is wanted', { told: SETTLED, root: 'unknown' }, 'first root', []],
    [
      'no root of one that is locked',
      { told: { ...SETTLED, unlockAllowed: 'on' }, root: 'unknown', typed: { unlocked: false } },
      'monthly update',
      [],
    ],
    ['no root of one that does not start', { told: SETTLED, root: 'unknown' }, 'repair', []],
    ['the other slot on the way to stock', { told: SETTLED }, 'return to stock', ['other-slot']],
    [
      'no other slot that was read',
      { told: SETTLED, cells: [{ slot: 'b', sha256: 'x' }] },
      'return to stock',
      [],
    ],
    [
      'what the link reads by itself: nothing',
      { link: 'stand-in', root: 'unknown', typed: { unlocked: null, slotCount: null } },
      'monthly update',
      [],
    ],
  ])('%s', (_what, told, goal, expected) => expect(asked(told, goal)).toEqual(expected));
  it('is no second slot and no update by snapshot where there are none', () => {
    expect(asked({}, 'first root', { mergesUpdates: false })).toEqual([]);
    expect(asked({ told: SETTLED }, 'return to stock', { slotCount: 1 })).toEqual([]);
  });
  it.each([
    [{}, false],
    [{ cells: [{ slot: 'a', sha256: 'x' }] }, false],
    [{ cells: [{ slot: 'b', sha256: null }] }, false],
    [{ cells: [{ slot: 'b', sha256: 'x' }] }, true],
    [{ told: { 'slot-successful:b': 'true' } }, true],
    [{ told: { 'slot-unbootable:b': 'true' } }, true],
    [{ told: { 'slot-retry-count:b': '0' } }, true],
    [{ told: { 'slot-successful:a': 'true' } }, false],
  ] as const)('of the other slot, told %j: read: %s', (told, read) =>
    expect(otherSlotRead(subject(told))).toBe(read),
  );
});

describe('where a plan begins', () => {
  const build = (fingerprint: string, publishedAt: number) => ({
    fingerprint,
    device: 'hill',
    product: 'hill_eu',
    buildId: fingerprint.split('/')[3]!,
    patchLevel: null,
    publishedAt,
  });
  const bench = {
    builds: [build(NOW, 1), build(NEXT, 2)],
    images: [],
    packages: [],
    kits: [],
    recoveries: [],
    trials: [],
    modules: [],
    moduleTrials: [],
    damaged: new Set<string>(),
    offered: null,
    quiet: [],
  };
  const LEARNT = { pace: {}, edges: [] };
  const limits = { computer: true, wipeAllowed: false, keepFuse: false };
  const made = (told: Told, goal: GoalId = 'first root', target: string | null = null) => {
    const found = contextOf(subject(told), bench, { goal, target, limits }, LEARNT);
    if (typeof found === 'string') throw new Error(found);
    return found;
  };
  const slots = (told: Told) => made(told).context.start.slots;
  it('promises nothing of a slot that was never read', () => {
    expect(slots({ told: SETTLED })).toEqual({
      a: { bootable: true, proven: true, triesLeft: PLAIN_PROFILE.triesPerSlot },
      b: { bootable: false, proven: false, triesLeft: 0 },
    });
    expect(slots({ told: { ...SETTLED, 'slot-successful:b': 'true' } }).b).toMatchObject({ proven: true });
    expect(slots({ told: { ...SETTLED, 'slot-unbootable:b': 'true' } }).b).toMatchObject({ bootable: false });
    expect(
      slots({ told: { ...SETTLED, 'slot-successful:b': 'false', 'slot-retry-count:b': '2' } }).b,
    ).toEqual({ bootable: true, proven: false, triesLeft: 2 });
    expect(slots({ told: { snapshot: 'merging' } }).b).toMatchObject({ gone: true });
    expect(slots({ told: SETTLED, typed: { currentSlot: 'b' } })).toMatchObject({
      a: { bootable: false },
      b: { proven: true },
    });
  });
  it('takes root on either build where an update waits and nobody said which', () => {
    const waits = { told: { snapshot: 'snapshotted' } };
    expect(made(waits).context).toMatchObject({
      target: NEXT,
      orTarget: NOW,
      start: { update: { slot: 'b', build: NEXT }, slots: { b: { proven: false, bootable: true } } },
    });
    expect(made(waits, 'first root', NOW).context).toMatchObject({ target: NOW });
    expect(made(waits, 'first root', NOW).context.orTarget).toBeUndefined();
    expect(made(waits, 'monthly update').context).toMatchObject({ target: NEXT });
    expect(made(waits, 'return to stock').context).toMatchObject({
      target: NOW,
      start: { update: { build: NEXT } },
    });
    expect(made({ told: SETTLED }).context.orTarget).toBeUndefined();
  });
  it('takes the kit, and says what it takes for granted, of the build that waits', () => {
    const later = 'club/hill_eu/hill:17/HC1.261105.003/9101:user/release-keys';
    const kit = (version: string, levels: [number, number]) => ({
      sha256: version.repeat(64),
      kitId: 'burrow',
      version,
      versionCode: 1,
      channel: 'stable',
      name: 'Burrow',
      fileName: 'burrow.kit.zip',
      sizeBytes: 1,
      addedAt: 1,
      supports: { sdk: levels, partitions: null },
      restsAfter: null,
      changesKernel: false,
      leastApp: null,
    });
    const [first, second] = [kit('1', [30, 36]), kit('2', [37, 37])];
    const benchOf = (waits: string, kits: readonly (typeof first)[]) => ({
      ...bench,
      builds: [build(NOW, 1), build(waits, 2)],
      kits,
    });
    const at = (waits: string, target: string | null = null, kits = [first, second]) => {
      const told = subject({ told: { snapshot: 'snapshotted', antiRollback: '1' }, typed: { sdk: 36 } });
      const found = contextOf(told, benchOf(waits, kits), { goal: 'first root', target, limits }, LEARNT);
      if (typeof found === 'string') throw new Error(found);
      return {
        kit: found.context.kit,
        builds: [found.context.target, found.context.orTarget],
        codes: found.assumptions.map(({ code }) => code).filter((code) => code.startsWith('target-')),
      };
    };
    const fuse = ['target-fuse'];
    expect(at(NEXT)).toEqual({ kit: 'burrow 1', builds: [NEXT, NOW], codes: fuse });
    expect(at(later)).toEqual({
      kit: 'burrow 2',
      builds: [later, undefined],
      codes: [...fuse, 'target-level'],
    });
    // the installed build is the one where it is asked for, and where only it has a kit
    const installed = { kit: 'burrow 1', builds: [NOW, undefined], codes: fuse };
    expect(at(later, NOW)).toEqual(installed);
    expect(at(later, null, [first])).toEqual(installed);
    expect(at(later, null, [])).toMatchObject({ kit: null, builds: [later, NOW] });
  });
  it('knows what its kit does by itself, and where an ordinary start passes boot by', () => {
    const kit = { restsAfter: 2, changesKernel: true, supports: { sdk: null, partitions: null } };
    const of = (kits: readonly unknown[]) => {
      const found = contextOf(
        subject({ told: SETTLED }),
        { ...bench, kits: kits as never },
        { goal: 'first root', target: null, limits },
        LEARNT,
      );
      if (typeof found === 'string') throw new Error(found);
      return [found.context.profile.restsModulesAfter, found.context.kitChangesKernel];
    };
    expect(of([kit])).toEqual([2, true]);
    expect(of([{ ...kit, restsAfter: null, changesKernel: false }])).toEqual([null, false]);
    expect(of([])).toEqual([null, undefined]);
    const legacy = (firstApiLevel: number, slotCount: number, ...names: string[]) =>
      made({
        told: SETTLED,
        typed: {
          firstApiLevel,
          slotCount,
          partitions: Object.fromEntries(names.map((name) => [name, {}])) as never,
        },
      }).context.profile.systemAsRoot;
    const names = ['boot_a', 'boot_b', 'system_a'];
    expect([25, 26, 28, 29].map((level) => legacy(level, 2, ...names))).toEqual([false, true, true, false]);
    expect(legacy(28, 1, 'boot', 'system')).toBe(false);
    expect(legacy(28, 2, ...names, 'recovery_a')).toBe(false);
    expect(legacy(28, 2, ...names, 'init_boot_a')).toBe(false);
    // nothing was read of its partitions
    expect(legacy(28, 2)).toBe(false);
  });
  it('says what it takes for granted of its state', () => {
    const codes = (told: Told, goal: GoalId = 'first root') =>
      made(told, goal).assumptions.map(({ code }) => code);
    expect(codes({})).toContain('no-update');
    expect(codes({ told: SETTLED })).not.toContain('no-update');
    expect(codes({ root: 'unknown' })).toContain('unrooted');
    expect(codes({ root: 'unknown', typed: { unlocked: false } })).not.toContain('unrooted');
    expect(codes({})).not.toContain('other-slot');
    expect(codes({}, 'return to stock')).toContain('other-slot');
    expect(codes({ cells: [{ slot: 'b', sha256: 'x' }] }, 'return to stock')).not.toContain('other-slot');
    expect(codes({ told: { snapshot: 'snapshotted' } })).toContain('waiting-build');
    expect(codes({ typed: { sdk: null } })).toContain('platform');
    expect(codes({})).not.toContain('platform');
    expect(codes({ typed: { unlocked: false } })).toContain('switch-on');
    expect(codes({ told: { unlockAllowed: 'on' }, typed: { unlocked: false } })).not.toContain('switch-on');
  });
});
