import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parsePlanInput } from '@/contracts/plan-input';
import type { PlanContext } from '@/core/planning/context';
import { planRound } from '@/core/planning/plan-round';
import { layOut } from '@/core/rounds/expand-plan';
import { inputOf, situations } from '../fixtures/plan-situations';
import type { ReplayStart } from '../fixtures/replay';
import { Replay } from '../fixtures/replay';
import { tries } from '../fixtures/soak';

/* Plans of seeded states, played by a second model that knows tags only. */

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
