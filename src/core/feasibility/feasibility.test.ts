import { describe, expect, it } from 'vitest';
import { rootPartitionOf } from '../fit/root-partition';
import type { FeasibilityInput } from './feasibility';
import { judgeFeasibility, worthOf } from './feasibility';
import type { FloorFacts } from './floors';
import { downgradeEdge, floorsOf } from './floors';
import { willDataOpen } from './patch-levels';
import type { ReadinessInput } from './readiness';
import { judgeReadiness } from './readiness';
import type { FeasibilitySays } from '../words/feasibility';
import { feasibilityNext } from '../words/feasibility';
import type { ReadinessReason } from '../words/readiness';

const DAY = 86_400_000;
const NOW = 1000 * DAY;
const root = rootPartitionOf({
  partitions: [],
  firstApiLevel: 34,
  images: [{ partition: 'init_boot', hasRamdisk: true }],
});
const good: FeasibilityInput = {
  now: NOW,
  unlocked: false,
  unlockSwitch: 'on',
  clocks: [],
  buildKnown: true,
  packageAtHand: true,
  stockKept: true,
  offered: null,
  instead: [],
  root,
  kits: [{ name: 'Burrow 7.3', channel: 'stable' }],
  recoveryWanted: false,
  recoveries: [],
  floors: [],
  data: { verdict: 'opens', says: { code: 'one-month' } },
  dependencies: [{ name: 'Hut payments', effect: 'stops', needed: false }],
  backupDays: 2,
  backupMaxDays: 14,
  backupLacks: null,
};
const judge = (change: Partial<FeasibilityInput> = {}) => judgeFeasibility({ ...good, ...change });

describe('feasibility', () => {
  it('goes where nothing speaks against it, and says what it costs', () => {
    const result = judge();
    expect(result).toMatchObject({ verdict: 'go', wipes: true, unknowns: [] });
    expect(result.says).toEqual({
      code: 'go',
      wipes: true,
      costs: [],
    });
    expect(judge({ backupDays: 40 }).says).toMatchObject({ costs: [{ code: 'old-backup', days: 40 }] });
    expect(judge({ unlocked: true })).toMatchObject({ verdict: 'go', wipes: false });
  });
  it.each<[string, Partial<FeasibilityInput>, FeasibilitySays['code']]>([
    ['the switch is absent', { unlockSwitch: 'absent' }, 'switch-absent'],
    ['the switch is grey', { unlockSwitch: 'greyed' }, 'switch-grey'],
    [
      'the switch has a clock',
      { clocks: [{ kind: 'unlock switch', endsAt: NOW + 3.2 * DAY, note: '' }] },
      'switch-clock',
    ],
    ['no kit supports it', { kits: [] }, 'no-kit'],
    ['the sources disagree about root', { root: { ...root, agree: false } }, 'root-disputed'],
    [
      'there is no ramdisk',
      {
        root: rootPartitionOf({
          partitions: [],
          firstApiLevel: null,
          images: [
            { partition: 'boot', hasRamdisk: false },
            { partition: 'recovery', hasRamdisk: false },
          ],
        }),
      },
      'root-nowhere',
    ],
    [
      'an app that is needed stops',
      { dependencies: [{ name: 'Hut payments', effect: 'stops', needed: true }] },
      'apps-needed',
    ],
    [
      'it is below a floor',
      { floors: [{ id: 'fuse', verdict: 'below', says: { code: 'below-fuse', fuse: 4, build: 3 } }] },
      'below-floor',
    ],
  ])('ends when %s', (_what, change, code) => {
    const result = judge(change);
    expect(result.verdict).toBe('no');
    expect(result.says).toMatchObject({ code: 'not-now', because: { code } });
  });
  it('counts a clock in days that are begun', () =>
    expect(judge({ clocks: [{ kind: 'unlock switch', endsAt: NOW + 3.2 * DAY, note: '' }] }).says).toEqual({
      code: 'not-now',
      because: { code: 'switch-clock', days: 4 },
    }));
  it.each<[string, Partial<FeasibilityInput>, string]>([
    ['the switch', { unlockSwitch: null }, 'unlock'],
    ['a switch that a guard setting hides', { unlockSwitch: 'hidden' }, 'unlock'],
    ['the package', { packageAtHand: false, stockKept: false }, 'package'],
    ['the build', { buildKnown: false }, 'build'],
    ['the seat of root', { root: rootPartitionOf({ partitions: [], firstApiLevel: 34 }) }, 'partition'],
    ['the release', { kits: null }, 'kit'],
    [
      'a floor',
      { floors: [{ id: 'stored index', verdict: 'unknown', says: { code: 'index-unread' } }] },
      'floors',
    ],
    ['a backup before a wipe', { backupDays: null }, 'backup'],
  ])('can’t tell without %s', (_what, change, id) => {
    const result = judge(change);
    expect(result.verdict).toBe("can't tell");
    expect(result.unknowns[0]!.id).toBe(id);
    expect(result.says).toMatchObject({ code: 'find-out', question: id });
    expect(feasibilityNext(result.unknowns[0]!.says)).not.toBeNull();
  });
  it('names the unknown that matters most first', () => {
    const { unknowns } = judge({
      unlockSwitch: null,
      packageAtHand: false,
      stockKept: false,
      kits: null,
      dependencies: [],
      backupDays: null,
    });
    const worths = unknowns.map(({ id }) => worthOf(id));
    expect(worths).toEqual([...worths].sort((a, b) => b - a));
    expect(unknowns[0]!.id).toBe('unlock');
    expect(unknowns).toHaveLength(5);
  });
  it('is never held up by what only costs', () => {
    expect(
      judge({ data: { verdict: 'may not open', says: { code: 'never-opened' } }, backupDays: 40 }),
    ).toMatchObject({ verdict: 'go' });
    expect(judge({ recoveryWanted: true })).toMatchObject({ verdict: 'go' });
    expect(judge({ dependencies: [] })).toMatchObject({ verdict: 'go' });
  });
});

describe('will the data open', () => {
  it.each([
    ['2026-11', '2026-11-05', '2026-11-05', null, 'opens'],
    ['2026-11', '2026-11-05', '2026-10-05', null, 'opens'],
    ['2026-10', '2026-10-05', '2026-11-05', null, 'may not open'],
    ['2026-10', '2026-11-05', '2026-11-05', null, 'may not open'],
    ['2026-10', '2026-11-05', '2026-09-05', null, 'may not open'],
    ['2026-11', null, '2026-09-05', null, "can't tell"],
    [null, null, null, null, "can't tell"],
    ['2026-11', '2026-11-05', null, null, "can't tell"],
    [null, null, null, false, 'opens'],
    ['garbage', '2026-11-05', null, null, "can't tell"],
  ])('image %s, system %s, data %s, encrypted %s: %s', (image, system, data, encrypted, verdict) => {
    expect(willDataOpen({ image, system, data, encrypted }).verdict).toBe(verdict);
  });
});

describe('the three floors', () => {
  const facts: FloorFacts = {
    fuse: 4,
    wantedFuse: 4,
    storedIndex: 10,
    wantedIndex: 11,
    makerFloor: '2026-06',
    wantedPatchLevel: '2026-11-05',
    locked: true,
    writesBootloader: true,
  };
  it.each<[string, Partial<FloorFacts>, string[]]>([
    ['all above', {}, ['above', 'above', 'above']],
    ['below the fuse', { wantedFuse: 3 }, ['below', 'above', 'above']],
    ['the fuse unknown', { fuse: null }, ['unknown', 'above', 'above']],
    ['no bootloader written', { fuse: null, writesBootloader: false }, ['does not count', 'above', 'above']],
    ['below the index while locked', { wantedIndex: 9 }, ['above', 'below', 'above']],
    [
      'below the index while unlocked',
      { wantedIndex: 9, locked: false },
      ['above', 'does not count', 'above'],
    ],
    ['the lock state unknown and below', { wantedIndex: 9, locked: null }, ['above', 'below', 'above']],
    ['the index never read', { storedIndex: null }, ['above', 'unknown', 'above']],
    ['below the maker’s floor', { wantedPatchLevel: '2026-05-05' }, ['above', 'above', 'below']],
    ['the maker’s floor unknown', { makerFloor: null }, ['above', 'above', 'unknown']],
  ])('%s', (_what, change, verdicts) =>
    expect(floorsOf({ ...facts, ...change }).map(({ verdict }) => verdict)).toEqual(verdicts),
  );
  it('a way down that was refused once counts as refused', () => {
    const edge = (allowed: boolean) => ({ fromBuild: 'b', toBuild: 'a', allowed, note: '' });
    expect(downgradeEdge([edge(true), edge(false)], 'b', 'a')?.allowed).toBe(false);
    expect(downgradeEdge([edge(true)], 'b', 'a')?.allowed).toBe(true);
    expect(downgradeEdge([edge(true)], 'a', 'b')).toBeNull();
  });
});

describe('readiness', () => {
  const NEXT = { buildId: 'HC1.261005.001', fingerprint: 'next', sdk: 36 };
  const kit = { name: 'Burrow 7.3', channel: 'stable', sdk: [28, 37] as const, trials: [] };
  const ready: ReadinessInput = {
    next: NEXT,
    packageOpened: true,
    rooted: true,
    kits: [kit],
    recovery: null,
    stockKept: true,
    snapshot: 'none',
  };
  const trial = (outcome: 'worked' | 'looped') => [{ outcome, fingerprint: 'next' }];
  it.each<[string, Partial<ReadinessInput>, string, ReadinessReason['code'] | null]>([
    ['all is there', {}, 'go', null],
    ['there is nothing newer', { next: null }, 'up to date', null],
    ['there is no kit', { kits: [] }, 'hold', 'no-kit'],
    ['the kit is for older levels', { kits: [{ ...kit, sdk: [28, 35] }] }, 'hold', 'no-kit-for-level'],
    ['the kit looped on it', { kits: [{ ...kit, trials: trial('looped') }] }, 'hold', 'kit-failed'],
    [
      'another kit worked on it',
      {
        kits: [
          { ...kit, trials: trial('looped') },
          { ...kit, channel: 'preview', trials: trial('worked') },
        ],
      },
      'go',
      null,
    ],
    ['only a preview supports it', { kits: [{ ...kit, channel: 'preview' }] }, 'hold', 'only-preview'],
    ['the way back is missing', { stockKept: false }, 'hold', 'stock-not-kept'],
    ['the last update still merges', { snapshot: 'merging' }, 'hold', 'merging'],
    [
      'the recovery is not for it',
      { recovery: { name: 'Lifeboat 3.8', supports: false } },
      'hold',
      'recovery-unsupported',
    ],
    [
      'the recovery is not known to be for it',
      { recovery: { name: 'Lifeboat 3.8', supports: null } },
      "can't tell",
      'recovery-unknown',
    ],
    ['its package was not opened', { packageOpened: false }, "can't tell", 'package-unopened'],
    ['it is not rooted, and no kit is needed', { rooted: false, kits: [], stockKept: false }, 'go', null],
  ])('%s', (_what, change, verdict, code) => {
    const result = judgeReadiness({ ...ready, ...change });
    expect(result.verdict).toBe(verdict);
    expect(result.reasons.map((reason) => reason.code)).toEqual(code === null ? [] : [code]);
  });
});
