import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { learnPace } from '@/core/planning/pace';
import type { GoalId } from '@/core/planning/context';
import { planRound } from '@/core/planning/plan-round';
import { insertFacts } from '@/server/repositories/handset-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { addHandset } from '@/server/services/bench-service';
import { needHandset, readBench, readSubject } from '@/server/services/bench-reading';
import { storeKit } from '@/server/services/image-service';
import type { Assumed } from '@/core/bench/planning-context';
import { contextOf } from '@/core/bench/planning-context';
import { waysOf } from '@/server/services/plan-service';
import { tellRoot } from '@/server/services/root-history';
import { reportSlot } from '@/server/services/slot-service';
import { codeOf } from '../fixtures/expect-error';
import { FINGERPRINT, kitZip } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';
import { OTHER_MONTH } from '../fixtures/stand-in-world';

/* A handset as the planner sees it, from what is known of it; what is not known is told. */

const LIMITS = { computer: true, wipeAllowed: true, keepFuse: false };
const NOTHING = { pace: {}, edges: [] };
let server: Awaited<ReturnType<typeof freshServer>>;
let handset: string;

beforeEach(async () => {
  server = await freshServer();
  const kit = await kitZip();
  await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
  handset = await addHandset('North', DUMP);
  for (const [i, fingerprint] of [
    FINGERPRINT.replace('260905', '260805'),
    FINGERPRINT,
    OTHER_MONTH,
  ].entries())
    await recordBuild({
      fingerprint,
      product: 'hill_eu',
      device: 'hill',
      buildId: fingerprint.split('/')[3]!,
      patchLevel: `2026-${['08', '09', '10'][i]}-05`,
      publishedAt: 1000 + i,
    });
});
afterEach(() => server.end());

const tell = (facts: Readonly<Record<string, string>>) =>
  insertFacts(
    handset,
    Object.entries(facts).map(([key, value]) => ({ key, value })),
    { source: 'link', witness: 'bootloader', at: Date.now() },
  );
async function seen(
  wish: Partial<Parameters<typeof contextOf>[2]> = {},
  learnt: Parameters<typeof contextOf>[3] = NOTHING,
): Promise<Assumed> {
  const subject = await readSubject(await needHandset(handset));
  const found = contextOf(
    subject,
    await readBench(),
    { goal: null, target: null, limits: LIMITS, ...wish },
    learnt,
  );
  if (typeof found === 'string') throw new Error(found);
  return found;
}

describe('a handset as the planner sees it', () => {
  it('tells what it takes for granted, and no more of what is known', async () => {
    const codes = async () => (await seen()).assumptions.map(({ code }) => code);
    expect(await codes()).toContain('no-download');
    await tell({ downloadMode: 'true', slotCount: '2' });
    const { context } = await seen();
    expect(await codes()).not.toContain('no-download');
    expect(context.profile).toMatchObject({ hasDownload: true, slotCount: 2, rootPartition: 'init_boot' });
    // the kernel has its place beside what carries root and recovery, whether or not it was read
    expect(Object.keys(context.profile.partitionBytes)).toEqual(
      expect.arrayContaining(['init_boot', 'boot', 'vendor_boot']),
    );
  });

  it.each<[Readonly<Record<string, string>>, boolean, boolean]>([
    [{}, true, false],
    [{ downloadMode: 'no' }, true, false],
    [{ downloadMode: 'yes' }, false, true],
    [{ downloadMode: 'true', bootloaderWrites: 'yes' }, true, false],
    [{ downloadMode: 'true', bootloaderWrites: 'no' }, false, false],
    [{ bootloaderWrites: 'no' }, false, false],
    [{ downloadMode: 'true', maxDownloadSize: '268435456' }, true, false],
    [{ downloadMode: 'true', 'partition-size:boot': '4096' }, true, false],
  ])('with %j its bootloader writes: %s, taken for granted: %s', async (facts, writes, assumed) => {
    await tell(facts);
    const { assumptions, context } = await seen();
    expect(context.profile.bootloaderWrites).toBe(writes);
    expect(assumptions.some(({ code }) => code === 'writes-nothing')).toBe(assumed);
  });

  it('is planned to the build that its goal leads to, where no other is wished', async () => {
    const august = FINGERPRINT.replace('260905', '260805');
    const targetOf = async (goal: GoalId, target: string | null = null) =>
      (await seen({ goal, target })).context.target;
    expect(await targetOf('first root')).toBe(FINGERPRINT);
    expect(await targetOf('monthly update')).toBe(OTHER_MONTH);
    expect(await targetOf('downgrade')).toBe(august);
    expect(await targetOf('return to stock')).toBe(FINGERPRINT);
    expect(await targetOf('downgrade', OTHER_MONTH)).toBe(OTHER_MONTH);
  });

  it('takes a release that is no number for the same platform level', async () => {
    await tellRoot(handset, null, 'proven', 'test');
    const named = FINGERPRINT.replace(':16/', ':Preview/').replace('260905', '261105');
    await recordBuild({
      fingerprint: named,
      product: 'hill_eu',
      device: 'hill',
      buildId: named.split('/')[3]!,
      patchLevel: '2026-11-05',
      publishedAt: 9000,
    });
    const { context } = await seen({ goal: 'major upgrade', target: named });
    expect(context.target).toBe(named);
    expect(context.kit).toBe('burrow 7.3');
  });

  it('plans no lane that writes a bootloader while the fuse is unknown', async () => {
    await tellRoot(handset, null, 'proven', 'test');
    const unknown = planRound((await seen({ goal: 'monthly update' })).context);
    const whole = unknown.others.find((out) => out.lane.id === 'whole-build-patched');
    expect(whole).toMatchObject({
      verdict: 'impossible',
      reason: expect.stringContaining('never read') as string,
    });
    expect(
      unknown.plans.every((plan) => plan.steps.every((step) => !step.action.startsWith('write-build'))),
    ).toBe(true);
    await tell({ antiRollback: '3' });
    const known = planRound((await seen({ goal: 'monthly update' })).context);
    expect(known.plans.map((plan) => plan.lane.id)).toContain('whole-build-patched');
  });

  it('takes a partition whose write was cut short for one that does not start', async () => {
    await reportSlot({
      handsetId: handset,
      slot: 'a',
      partition: 'init_boot',
      sha256: null,
      certainty: 'unknown',
      reason: 'a write was cut short',
    });
    const { context } = await seen();
    expect(context.start.images['init_boot_a']!.broken).toContain('cut short');
    expect(context.start.images['init_boot_b']!.broken).toBeNull();
  });

  it('sees an update that waits on the other slot, which runs nothing yet', async () => {
    await tell({ snapshot: 'snapshotted' });
    const { start, target } = (await seen({ goal: 'monthly update' })).context;
    expect(start).toMatchObject({
      active: 'b',
      snapshot: 'waiting',
      running: { slot: 'a', build: FINGERPRINT },
      update: { slot: 'b', build: target },
    });
    await tell({ snapshot: 'merging' });
    expect((await seen()).context.start).toMatchObject({ active: 'a', snapshot: 'merging', update: null });
  });

  it('lets in by sideload what somebody has walked, and nothing that was refused', async () => {
    const edge = (allowed: 'yes' | 'no') => ({
      id: allowed,
      device: 'hill',
      fromBuild: 'HC1.260905.007',
      toBuild: 'HC1.260805.007',
      allowed,
      bootloader: null,
      note: '',
      at: 0,
    });
    const down = (edges: readonly ReturnType<typeof edge>[]) =>
      seen({ goal: 'downgrade' }, { pace: {}, edges });
    expect((await down([edge('no')])).context.profile.sideloadsDown).toEqual([]);
    const { context } = await down([edge('yes')]);
    expect(context.profile.sideloadsDown).toHaveLength(1);
    expect(context.target).toContain('260805');
    expect(planRound(context).plans.map((plan) => plan.lane.id)).toContain('sideload');
  });

  it('for a new release wants a kit that supports it', async () => {
    await tellRoot(handset, null, 'proven', 'test');
    const release = (n: number) => OTHER_MONTH.replace(':16/', `:${n}/`).replace('261005', '261105');
    await recordBuild({
      fingerprint: release(17),
      product: 'hill_eu',
      device: 'hill',
      buildId: 'HC1.261105.007',
      patchLevel: '2026-11-05',
      publishedAt: 2000,
    });
    const { context, assumptions } = await seen({ goal: 'major upgrade' });
    expect(context).toMatchObject({ target: release(17), kit: 'burrow 7.3' });
    expect(assumptions).toContainEqual({ code: 'target-level', sdk: 37 });
    await recordBuild({
      fingerprint: release(18),
      product: 'hill_eu',
      device: 'hill',
      buildId: 'HC1.261105.007',
      patchLevel: '2026-11-05',
      publishedAt: 2001,
    });
    const beyond = await seen({ goal: 'major upgrade' });
    expect(beyond.context.kit).toBeNull();
    const { plans } = planRound(beyond.context);
    const all = plans.flatMap(({ steps }) => steps.map(({ action }) => action));
    expect(all).not.toContain('patch-target');
    expect(all).not.toContain('patch-other-slot');
  });

  it('asks for the likeliest goal, and for what has to be known first', async () => {
    expect((await seen()).context.goal).toBe('first root');
    await tellRoot(handset, null, 'proven', 'test');
    expect((await seen()).context.goal).toBe('monthly update');
    await tellRoot(handset, null, 'broken', 'test');
    expect((await seen()).context).toMatchObject({ goal: 'repair', start: { mode: 'looping' } });
    const bare = await addHandset('Bare', '[ro.product.device]: [bare]\n[ro.serialno]: [BARE1]\n');
    expect(await waysOf(bare, { goal: null, target: null, limits: LIMITS })).toMatchObject({
      missing: 'Its build is not known yet.',
      plans: [],
    });
    expect(await codeOf(() => waysOf(handset, { goal: null, target: 'not/a/build', limits: LIMITS }))).toBe(
      'not-found',
    );
  });
});

describe('what the log teaches', () => {
  it('moves an estimate a little with one round, and most of the way with ten', () => {
    const prior = [10, 30] as const;
    expect(learnPace(prior, [])).toEqual([10, 30]);
    const one = learnPace(prior, [120]);
    const ten = learnPace(
      prior,
      Array.from({ length: 10 }, () => 120),
    );
    expect(one[0]).toBeCloseTo(8);
    expect(ten[0]).toBeCloseTo((30 + 20) / 13);
    expect(ten[1]).toBeLessThan(one[1]);
    expect(ten[1]).toBeGreaterThanOrEqual(ten[0]);
  });
  it('is shown on a plan', async () => {
    await tell({ antiRollback: '3' });
    const slow = planRound(
      (await seen({ goal: 'first root' }, { pace: { 'write-root': [40, 80] }, edges: [] })).context,
    );
    const step = slow.plans
      .find((plan) => plan.lane.id === 'one-image-once')!
      .steps.find(({ action }) => action === 'write-root');
    expect(step!.minutes).toEqual([40, 80]);
  });
});
