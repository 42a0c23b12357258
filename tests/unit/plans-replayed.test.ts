import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parsePlanInput } from '@/contracts/plan-input';
import type { PlanContext } from '@/core/planning/context';
import { planRound } from '@/core/planning/plan-round';
import { layOut } from '@/core/rounds/expand-plan';
import type { ReplayStart } from '../fixtures/replay';
import { Replay } from '../fixtures/replay';
import { tries } from '../fixtures/soak';

/* Plans of seeded states, played by a second model that knows tags only. */

const fingerprint = (month: number) =>
  `club/hill_eu/hill:16/HC1.26${String(month).padStart(2, '0')}05.001/${month}:user/release-keys`;
const [OLD, NOW, NEXT] = [7, 8, 9].map(fingerprint) as [string, string, string];
const level = (month: number, bootloader: number) => ({
  patchLevel: `2026-0${month}-05`,
  sdk: 35,
  index: month,
  bootloader,
});

const KINDS = {
  'two slots, init_boot': {
    partitions: ['boot', 'init_boot', 'vendor_boot', 'vbmeta'],
    recoveryHome: 'vendor_boot',
    slotCount: 2,
    rootPartition: 'init_boot',
  },
  'two slots, boot': {
    partitions: ['boot', 'vendor_boot', 'vbmeta'],
    recoveryHome: 'boot',
    slotCount: 2,
    rootPartition: 'boot',
    startsOnce: true,
  },
  'one slot': {
    partitions: ['boot', 'recovery', 'vbmeta'],
    recoveryHome: 'recovery',
    slotCount: 1,
    rootPartition: 'boot',
    startsOnce: true,
  },
  'download mode only': {
    partitions: ['boot', 'recovery', 'vbmeta'],
    recoveryHome: 'recovery',
    slotCount: 1,
    rootPartition: 'boot',
    hasDownload: true,
    bootloaderWrites: false,
    unlockPath: 'key chord',
  },
  'root in recovery': {
    partitions: ['boot', 'recovery', 'vbmeta'],
    recoveryHome: 'recovery',
    slotCount: 1,
    rootPartition: 'recovery',
  },
} as const;

const GOALS = [
  'first root',
  'root again',
  'monthly update',
  'downgrade',
  'keep a recovery',
  'return to stock',
  'lock again',
  'repair',
] as const;

const mostly = (usual: boolean) => fc.constantFrom(usual, usual, usual, usual, !usual);
const situations = fc.record({
  kind: fc.constantFrom(...(Object.keys(KINDS) as (keyof typeof KINDS)[])),
  goal: fc.constantFrom(...GOALS),
  locked: mostly(false),
  rooted: fc.constantFrom(true, false, null),
  own: fc.boolean(),
  otherPatched: fc.boolean(),
  looping: mostly(false),
  snapshot: fc.constantFrom('none', 'none', 'waiting', 'merging'),
  unlockSwitch: fc.constantFrom('on', 'on', 'off', 'greyed'),
  mailed: fc.boolean(),
  restoresRecovery: fc.boolean(),
  needsVbmetaFlags: fc.boolean(),
  wipeAllowed: fc.boolean(),
  keepFuse: mostly(false),
  computer: mostly(true),
  kit: mostly(true),
  fuse: fc.constantFrom(1, 2, null),
  packages: fc.constantFrom([OLD, NOW, NEXT], [OLD, NOW, NEXT], [NOW], [NOW, NEXT], [OLD, NOW]),
  module: fc.boolean(),
});
type Situation = typeof situations extends fc.Arbitrary<infer T> ? T : never;

function inputOf(from: Situation) {
  const handset = KINDS[from.kind];
  const two = handset.slotCount === 2;
  const patched = from.rooted === true && !from.locked;
  const own = from.own && !from.locked;
  const snapshot = two ? from.snapshot : 'none';
  const root = `${handset.rootPartition}_a`;
  const home = `${handset.recoveryHome}_a`;
  const images: Record<string, object> = {};
  if (patched) images[root] = { build: NOW, patched: true, ...(from.looping ? { broken: 'cut' } : {}) };
  if (own && home !== root) images[home] = { build: NOW, recovery: { name: 'Lifeboat', opensUpTo: 37 } };
  if (two && from.otherPatched && snapshot !== 'waiting' && !from.locked)
    images[`${handset.rootPartition}_b`] = { build: OLD, patched: true };
  if (own || patched) if (from.needsVbmetaFlags) images['vbmeta_a'] = { build: NOW, patched: true };
  const other = snapshot === 'waiting' ? NEXT : OLD;
  return {
    handset: {
      sdk: 35,
      unlockPath: from.mailed ? 'mailed code' : 'command',
      ...handset,
      restoresRecovery: from.restoresRecovery,
      needsVbmetaFlags: from.needsVbmetaFlags,
      builds: { [OLD]: level(7, 1), [NOW]: level(8, 2), [NEXT]: level(9, 2) },
    },
    state: {
      builds: two ? { a: NOW, b: other } : { a: NOW },
      active: 'a',
      locked: from.locked,
      mode: from.looping && patched && from.goal === 'repair' ? 'looping' : 'system',
      unlockSwitch: from.unlockSwitch,
      modules: from.module && patched ? ['lantern'] : [],
      images:
        from.looping && from.goal !== 'repair' && patched
          ? { ...images, [root]: { build: NOW, patched: true } }
          : images,
      snapshot,
      update: snapshot === 'waiting' ? { slot: 'b', build: NEXT } : null,
      vbmetaFlags: from.needsVbmetaFlags && (patched || own) ? 3 : 0,
      floors: { bootloader: 2, fuse: from.fuse, index: 1 },
      ...(from.looping && from.goal === 'repair' ? {} : { rooted: from.locked ? false : from.rooted }),
      data: { committedBy: NOW, keyLevel: '2026-08-05', encrypted: true },
    },
    goal: from.goal,
    ...(from.goal === 'monthly update' ? { target: NEXT } : from.goal === 'downgrade' ? { target: OLD } : {}),
    kit: from.kit ? 'Burrow 7.2' : null,
    recovery: { name: 'Lifeboat', opensUpTo: 37 },
    fullPackages: from.packages,
    limits: { wipeAllowed: from.wipeAllowed, keepFuse: from.keepFuse, computer: from.computer },
  };
}

const replayStart = ({ profile, start, limits }: PlanContext): ReplayStart => {
  const named = (test: (name: string) => boolean) => Object.keys(start.images).filter(test);
  return {
    twoSlots: profile.slotCount === 2,
    partitions: Object.keys(profile.partitionBytes),
    rootPartition: profile.rootPartition,
    recoveryHome: profile.recoveryHome,
    hasDownload: profile.hasDownload,
    bootloaderWrites: profile.bootloaderWrites,
    startsOnce: profile.startsOnce,
    merges: profile.mergesUpdates,
    restores: profile.restoresRecovery,
    chord: profile.unlockPath === 'key chord',
    level: (build) => profile.builds[build]!.bootloader,
    age: (build) => profile.builds[build]!.patchLevel,
    mode: start.mode,
    locked: start.locked,
    switchOn: true,
    active: start.active,
    running: start.running?.slot ?? null,
    rooted: start.running?.rooted ?? false,
    builds: start.builds,
    patched: named((name) => start.images[name]!.patchedBy !== null || start.images[name]!.flags === 3),
    own: named((name) => Boolean(start.images[name]!.recovery)),
    broken: named((name) => start.images[name]!.broken !== null),
    snapshot: start.snapshot,
    fuse: start.floors.fuse,
    wipeAllowed: limits.wipeAllowed,
    keepFuse: limits.keepFuse,
  };
};

describe('plans of seeded states', () => {
  it('hold on a second model of handsets, tag by tag, and end where they were to', async () => {
    let played = 0;
    await fc.assert(
      fc.asyncProperty(situations, async (from) => {
        const context = await parsePlanInput(inputOf(from));
        for (const plan of planRound(context).plans) {
          const replay = new Replay(replayStart(context));
          const tags = layOut(context, plan).flatMap(({ does }) => does);
          for (const tag of tags) replay.play(tag);
          expect({ lane: plan.lane.id, tags, faults: replay.faults }).toMatchObject({ faults: [] });
          played += 1;
          expect(replay.mode).toBe('system');
          if (['first root', 'root again', 'monthly update'].includes(from.goal))
            expect(replay.rooted).toBe(true);
          if (!from.wipeAllowed) expect(replay.wipes).toBe(0);
          if (from.goal === 'lock again') expect(replay.locked).toBe(true);
          else expect(tags).not.toContain('lock');
          if (from.goal === 'return to stock' || from.goal === 'lock again')
            expect(
              [...replay.lies].filter(
                ([name, one]) =>
                  one.kind !== 'stock' &&
                  (name.endsWith(`_${replay.active}`) || name.startsWith(context.profile.rootPartition)),
              ),
            ).toEqual([]);
        }
      }),
      tries(150),
    );
    expect(played).toBeGreaterThan(60);
  });
});
