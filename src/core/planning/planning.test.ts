import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { HandsetProfile } from '../handset/state';
import type { ActionId } from './actions';
import { ACTIONS } from './actions';
import type { GoalId, PlanContext, PlanState } from './context';
import { PLAIN_WEIGHTS, stockImage } from './context';
import { reached } from './goals';
import type { LanePlan } from './plan-round';
import { planRound } from './plan-round';
import type { World } from '../../../tests/fixtures/plan-world';
import { AUGUST, OCTOBER, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { times, tries } from '../../../tests/fixtures/soak';

const steps = (plan: LanePlan | undefined) => plan?.steps.map((step) => step.action);
const planOf = (context: PlanContext, lane: string) =>
  planRound(context).plans.find((plan) => plan.lane.id === lane);
const outOf = (context: PlanContext, lane: string) =>
  planRound(context).others.find((one) => one.lane.id === lane);
const monthly = (more: Partial<PlanContext> = {}): Partial<PlanContext> => ({
  goal: 'monthly update',
  target: OCTOBER,
  ...more,
});

/** Plays a plan on the machine from its beginning: every step has to go, and the end has to be the goal. */
function play(context: PlanContext, plan: LanePlan): PlanState {
  let now: PlanState = { handset: context.start, made: [...context.kept].sort() };
  for (const step of plan.steps) {
    const result = (
      ACTIONS[step.action as ActionId] as {
        apply: (c: PlanContext, s: PlanState) => { ok: boolean; state?: PlanState; reason?: string };
      }
    ).apply(context, now);
    if (!result.ok) throw new Error(`${plan.lane.id}, ${step.action}: ${result.reason}`);
    now = result.state!;
    expect(now.handset).toEqual(step.after);
  }
  expect(reached(context, now), plan.lane.id).toBe(true);
  return now;
}

describe('a first root', () => {
  it('of an unlocked handset: one image, written once', () => {
    const plan = planOf(world(), 'one-image-once');
    expect(steps(plan)).toEqual([
      'open-installed-package',
      'take-stock',
      'patch',
      'bootloader',
      'write-root',
      'start',
      'prove-root',
      'finish-root-app',
    ]);
    expect(plan!.figures).toMatchObject({ wipes: 0, restarts: 1, writes: 1, downloads: 1 });
    expect(plan!.survives).toContain('data');
    expect(plan!.lost).toEqual(['warranty fuse']);
  });
  it('takes what the vault has', () => {
    expect(
      steps(
        planOf(
          world({ context: { kept: [`stock ${SEPTEMBER}`, `patched ${SEPTEMBER}`] } }),
          'one-image-once',
        ),
      ),
    ).toEqual(['bootloader', 'write-root', 'start', 'prove-root', 'finish-root-app']);
  });
  it('of a locked one wipes, and only where that is allowed', () => {
    const locked = { locked: true, state: { unlockSwitch: 'off' as const } };
    const out = outOf(world(locked), 'one-image-once');
    expect(out).toMatchObject({ verdict: 'impossible' });
    const allowed = planOf(
      world({ ...locked, context: { limits: { computer: true, wipeAllowed: true, keepFuse: false } } }),
      'one-image-once',
    )!;
    expect(allowed.figures.wipes).toBe(1);
    expect(steps(allowed)).toContain('unlock-switch');
    expect(allowed.lost).toContain('data');
  });
  it('without a kit takes the image that a provider’s own app patched', () => {
    const plan = planOf(world({ context: { kit: null } }), 'one-image-once')!;
    expect(steps(plan)).toContain('bring-patched');
    expect(steps(plan)).not.toContain('patch');
    const wished = { computer: true, wipeAllowed: false, keepFuse: false, patchedElsewhere: true };
    expect(steps(planOf(world({ context: { limits: wished } }), 'one-image-once')!)).toContain(
      'bring-patched',
    );
    expect(steps(planOf(world(), 'one-image-once')!)).not.toContain('bring-patched');
  });
  it.each<[string, World, string, RegExp]>([
    ['without a kit', { context: { kit: null } }, 'start-once-kit-inside', /No kit supports/],
    [
      'without a computer',
      { context: { limits: { computer: false, wipeAllowed: true, keepFuse: false } } },
      'one-image-once',
      /needs a computer/,
    ],
    [
      'with the fuse kept',
      { context: { limits: { computer: true, wipeAllowed: true, keepFuse: true } } },
      'one-image-once',
      /warranty fuse/,
    ],
    [
      'without its package',
      { context: { fullPackages: [] } },
      'one-image-once',
      /No full package of HC1\.260905\.001 is at hand/,
    ],
    [
      'of init_boot from memory',
      { profile: { startsOnce: true } },
      'start-once-make-lasting',
      /only boot is started from memory/,
    ],
    ['in download mode where there is none', {}, 'firmware-set-patched', /no download mode/],
  ])('is impossible %s, in one sentence', (_what, given, lane, words) => {
    const out = outOf(world(given), lane)!;
    expect(out.verdict).toBe('impossible');
    expect(out.reason).toMatch(words);
    expect(out.reason.endsWith('.')).toBe(true);
  });
  it('on a boot handset can be tried from memory first', () => {
    const context = world({
      profile: { rootPartition: 'boot', startsOnce: true, partitionBytes: { boot: 8192, vendor_boot: 8192 } },
    });
    const plan = planOf(context, 'start-once-make-lasting')!;
    expect(steps(plan)).toEqual(expect.arrayContaining(['start-once', 'prove-root', 'make-lasting']));
    expect(steps(plan)!.indexOf('start-once')).toBeLessThan(steps(plan)!.indexOf('make-lasting'));
  });
  it.each([
    ['boot', true, /lives in boot/],
    ['vendor_boot', true, /lives in vendor_boot/],
    ['recovery', false, /never read/],
  ] as const)(
    'writes no recovery where that lives in %s and was read: %s',
    (recoveryHome, recoveryHomeRead, why) => {
      const boot = {
        rootPartition: 'boot',
        recoveryHome,
        startsOnce: true,
        partitionBytes: { boot: 8192, [recoveryHome]: 8192 },
      } as const;
      for (const goal of ['first root', 'keep a recovery'] as const) {
        const { plans, others } = planRound(
          world({
            profile: boot,
            context: { goal, recovery: { name: 'Lifeboat', opensUpTo: 36 }, recoveryHomeRead },
          }),
        );
        expect(
          plans.flatMap(steps).filter((id) => id === 'write-recovery' || id === 'recovery-inside'),
        ).toEqual([]);
        const lane = goal === 'first root' ? 'through-the-recovery' : 'write-a-recovery';
        expect(others.find((one) => one.lane.id === lane)).toMatchObject({
          verdict: 'impossible',
          reason: expect.stringMatching(why) as string,
        });
      }
    },
  );
  it('a recovery that is a part of vendor_boot is not started from memory, one in boot is', () => {
    const from = (recoveryHome: 'boot' | 'vendor_boot') =>
      planRound(
        world({
          profile: {
            rootPartition: 'boot',
            recoveryHome,
            startsOnce: true,
            partitionBytes: { boot: 8192, vendor_boot: 8192 },
          },
          context: { recovery: { name: 'Lifeboat', opensUpTo: 36 } },
        }),
      ).plans.map(({ lane }) => lane.id);
    expect(from('boot')).toContain('recovery-started-once');
    expect(from('vendor_boot')).not.toContain('recovery-started-once');
  });
  it('of a firmware-set handset goes in one set', () => {
    const context = world({
      profile: {
        slotCount: 1,
        hasDownload: true,
        rootPartition: 'boot',
        recoveryHome: 'recovery',
        partitionBytes: { boot: 8192, recovery: 8192 },
      },
    });
    expect(steps(planOf(context, 'firmware-set-patched'))).toEqual(
      expect.arrayContaining(['download', 'write-set-patched', 'finish-start', 'prove-root']),
    );
  });
});

describe('a handset whose bootloader writes nothing', () => {
  const plans = (bootloaderWrites: boolean) =>
    planRound(
      world({
        profile: {
          slotCount: 1,
          hasDownload: true,
          bootloaderWrites,
          rootPartition: 'boot',
          recoveryHome: 'recovery',
          partitionBytes: { boot: 8192, recovery: 8192 },
        },
      }),
    ).plans;
  it('is led through download mode only', () => {
    const writes = (id: string) => /^write-(root|stock|recovery|stock-recovery|build)/.test(id);
    const mute = plans(false).map((plan) => steps(plan)!);
    expect(mute.length).toBeGreaterThan(0);
    expect(mute.flat().filter(writes)).toEqual([]);
    expect(mute.flat()).toContain('write-set-patched');
    expect(
      plans(true)
        .flatMap((plan) => steps(plan)!)
        .filter(writes),
    ).not.toEqual([]);
  });
});

describe('a monthly update', () => {
  it('in place patches the other slot before the one restart, and takes modules along', () => {
    const context = world({
      rooted: true,
      context: monthly(),
      state: { modules: { on: true, ids: ['lantern'] } },
    });
    const plan = planOf(context, 'update-in-place-other-slot')!;
    const order = steps(plan)!;
    const take = order.findIndex((id) => id === 'take-full-update' || id === 'take-update');
    expect(take).toBeGreaterThanOrEqual(0);
    expect(order.indexOf('patch-other-slot')).toBeGreaterThan(take);
    expect(order.indexOf('start')).toBeGreaterThan(order.indexOf('patch-other-slot'));
    expect(order.filter((id) => id === 'start')).toHaveLength(1);
    expect(plan.figures).toMatchObject({ wipes: 0, restarts: 1, trialStart: true });
    expect(plan.figures.offers).toBe(4);
    expect(plan.survives).toEqual(expect.arrayContaining(['data', 'root', 'modules']));
  });
  it('puts the stock image back first where only an incremental update is offered', () => {
    const context = world({ rooted: true, context: monthly({ fullPackages: [SEPTEMBER] }) });
    const order = steps(planOf(context, 'update-in-place-other-slot'))!;
    expect(order.indexOf('stock-back')).toBeGreaterThanOrEqual(0);
    expect(order.indexOf('stock-back')).toBeLessThan(order.indexOf('take-update'));
    expect(order.indexOf('take-update')).toBeLessThan(order.indexOf('patch-other-slot'));
  });
  it('needs running root, or two slots, and says which', () => {
    expect(outOf(world({ context: monthly() }), 'update-in-place-other-slot')!.reason).toMatch(
      /Root has to run already/,
    );
    const oneSlot = world({
      rooted: true,
      context: monthly(),
      profile: { slotCount: 1, recoveryHome: 'recovery', mergesUpdates: false },
    });
    expect(outOf(oneSlot, 'update-in-place-other-slot')!.reason).toMatch(/two slots/);
  });
  it('from the computer keeps root from the first start', () => {
    const plan = planOf(world({ rooted: true, context: monthly() }), 'whole-build-patched')!;
    expect(steps(plan)).toEqual(
      expect.arrayContaining(['patch-target', 'write-build-patched', 'start', 'prove-root']),
    );
    expect(plan.figures.restarts).toBe(1);
  });
  it('is never planned below the fuse', () => {
    const low = world({
      rooted: true,
      context: monthly(),
      state: { floors: { bootloader: 5, fuse: 5, index: 0 } },
    });
    expect(outOf(low, 'whole-build-patched')!.reason).toMatch(/below the fuse/);
    for (const plan of planRound(low).plans) expect(steps(plan)).not.toContain('write-build');
  });
  it('ranks its lanes, says why, and what would be lost', () => {
    const { plans, pick, why } = planRound(world({ rooted: true, context: monthly() }));
    expect(plans.length).toBeGreaterThanOrEqual(4);
    expect(plans.map((plan) => plan.score)).toEqual(
      [...plans.map((plan) => plan.score)].sort((a, b) => a - b),
    );
    expect(pick).toBe(plans[0]!.lane.id);
    expect(why).toMatch(/^Compared with “/);
  });
  it('where minutes without root weigh most prefers a lane that has none', () => {
    const heavy = world({
      rooted: true,
      context: monthly({ weights: { ...PLAIN_WEIGHTS, minuteWithoutRoot: 50, offer: 0 } }),
    });
    const { plans } = planRound(heavy);
    expect(plans[0]!.figures.minutesWithoutRoot).toBe(
      Math.min(...plans.map((plan) => plan.figures.minutesWithoutRoot)),
    );
  });
});

describe('what would open a lane', () => {
  const opens = (given: World, lane: string) => outOf(world(given), lane)!.opens;
  const limits = { computer: true, wipeAllowed: false, keepFuse: false };
  it.each<[string, World, string, unknown]>([
    [
      'a computer',
      { context: { limits: { ...limits, computer: false } } },
      'one-image-once',
      { by: 'limit', limit: 'computer', value: true },
    ],
    [
      'that it may be erased',
      { locked: true },
      'one-image-once',
      { by: 'limit', limit: 'wipeAllowed', value: true },
    ],
    [
      'that the fuse may blow',
      { context: { limits: { ...limits, keepFuse: true } } },
      'one-image-once',
      { by: 'limit', limit: 'keepFuse', value: false },
    ],
    ['a package', { context: { fullPackages: [] } }, 'one-image-once', { by: 'package' }],
    [
      'a kit',
      { profile: { startsOnce: true, rootPartition: 'boot' }, context: { kit: null } },
      'start-once-kit-inside',
      { by: 'kit' },
    ],
    [
      'a kit that changes the kernel too, where the system brings the ramdisk',
      {
        profile: { systemAsRoot: true, rootPartition: 'boot', recoveryHome: 'boot' },
        context: { kitChangesKernel: false },
      },
      'one-image-once',
      { by: 'kit' },
    ],
    ['nothing on the page', {}, 'firmware-set-patched', null],
  ])('%s', (_what, given, lane, expected) => expect(opens(given, lane)).toEqual(expected));
});

describe('other goals', () => {
  it('a recovery that the system puts back is gone into at once, which keeps it', () => {
    const own = { recovery: { name: 'Lifeboat', opensUpTo: 36 }, goal: 'keep a recovery' as const };
    const profile = { recoveryHome: 'recovery' as const };
    for (const restoresRecovery of [false, true])
      expect(
        steps(planOf(world({ profile: { ...profile, restoresRecovery }, context: own }), 'write-a-recovery')),
      ).toEqual([
        'open-installed-package',
        'take-stock',
        'bootloader',
        'write-recovery',
        'recovery',
        'start',
      ]);
  });
  it('back to stock writes the stock image and starts', () => {
    const context = world({ rooted: true, context: { goal: 'return to stock' } });
    expect(steps(planOf(context, 'stock-images-back'))).toEqual([
      'open-installed-package',
      'take-stock',
      'bootloader',
      'write-stock',
      'start',
    ]);
  });
  it('a looping handset is mended from the vault, or by the other slot where that can read the data', () => {
    const broken = { ...stockImage('init_boot', OCTOBER) };
    const looping = (data: string): World => ({
      context: { goal: 'repair', kept: [`stock ${SEPTEMBER}`] },
      state: {
        mode: 'looping',
        running: null,
        images: { ...world().start.images, init_boot_a: broken },
        data: {
          encrypted: true,
          keyLevel: data === AUGUST ? '2026-08-05' : '2026-09-05',
          committedBy: data,
          wipes: 0,
        },
      },
    });
    expect(steps(planOf(world(looping(SEPTEMBER)), 'stock-images-back'))).toEqual([
      'bootloader',
      'write-stock',
      'start',
    ]);
    expect(steps(planOf(world(looping(AUGUST)), 'other-slot'))).toEqual([
      'bootloader',
      'other-slot',
      'start',
    ]);
    expect(outOf(world(looping(SEPTEMBER)), 'other-slot')).toMatchObject({ verdict: 'impossible' });
  });
  it('down by sideload only where the maker lets it, and over fresh data', () => {
    const down = {
      goal: 'downgrade' as const,
      target: AUGUST,
      fullPackages: [AUGUST],
      limits: { computer: true, wipeAllowed: true, keepFuse: false },
    };
    expect(outOf(world({ context: down }), 'sideload')!.reason).toMatch(/older than the installed build/);
    const allowed = planOf(
      world({ context: down, profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] } }),
      'sideload',
    )!;
    expect(allowed.figures.wipes).toBe(1);
  });
  it('without unlocking only on an open build', () => {
    const context = (profile: Partial<HandsetProfile>) =>
      world({ locked: true, profile, context: { goal: 'root without unlocking' } });
    expect(outOf(context({}), 'in-system-root')!.reason).toMatch(/Nobody has noted/);
    expect(steps(planOf(context({ openBuilds: [SEPTEMBER] }), 'in-system-root'))).toEqual([
      'open-root',
      'prove-root',
    ]);
  });
  it('says beforehand what the tamper record will say', () => {
    const root = (profile: Partial<HandsetProfile> = {}, state = {}) =>
      planOf(world({ profile, state, context: { goal: 'first root' } }), 'one-image-once')!.tamper;
    const { title } = ACTIONS['write-root'];
    expect(root()).toEqual({ blowsAt: title, writes: 1 });
    expect(root({ ownWays: { 'fuse-reacts': 'a foreign start' } }).blowsAt).not.toBe(title);
    expect(root({ ownWays: { 'fuse-reacts': 'nothing' } })).toEqual({ blowsAt: null, writes: 1 });
    expect(root({}, { record: { fuseBlown: true, writes: 7 } })).toEqual({ blowsAt: null, writes: 1 });
  });
  it('whose fuse has to stay whole may write where it reacts to nothing of that', () => {
    const limits = { computer: true, wipeAllowed: false, keepFuse: true };
    const plans = (cause: 'a foreign write' | 'a foreign start' | 'unlocking' | 'nothing') =>
      planRound(
        world({ profile: { ownWays: { 'fuse-reacts': cause } }, context: { goal: 'first root', limits } }),
      ).plans.length > 0;
    expect([plans('a foreign write'), plans('a foreign start')]).toEqual([false, false]);
    expect([plans('unlocking'), plans('nothing')]).toEqual([true, true]);
  });
  it('root from inside goes the way it came, with a restart, and only where it came so', () => {
    const there = (insideRoot?: 'lasting' | 'until restart') =>
      world({
        locked: true,
        profile: { openBuilds: [SEPTEMBER], ownWays: { 'inside-lasts': 'lasting' } },
        state: {
          running: { slot: 'a', build: SEPTEMBER, rooted: true },
          ...(insideRoot ? { insideRoot } : {}),
        },
        context: { goal: 'return to stock' },
      });
    for (const lasts of ['lasting', 'until restart'] as const)
      expect(steps(planOf(there(lasts), 'inside-root-off'))).toEqual(['undo-inside', 'start']);
    expect(outOf(there(), 'inside-root-off')!.reason).toMatch(/not let in from inside/);
  });
  it('what is there already needs nothing', () => {
    const there = world({ context: { goal: 'repair' } });
    expect(planRound(there).plans).toEqual([]);
    expect(planRound(there).why).toMatch(/there already/);
  });
});

describe('whatever the handset', () => {
  const anyWorld: fc.Arbitrary<PlanContext> = fc
    .record({
      rooted: fc.boolean(),
      recovery: fc.boolean(),
      locked: fc.constantFrom(false, false, true),
      goal: fc.constantFrom<GoalId>(
        'first root',
        'root again',
        'monthly update',
        'downgrade',
        'keep a recovery',
        'return to stock',
        'root without unlocking',
        'repair',
      ),
      odd: fc.constantFrom(SEPTEMBER, OCTOBER, AUGUST, null, null, null, null),
      open: fc.boolean(),
      root: fc.constantFrom('init_boot', 'boot'),
      home: fc.constantFrom(
        'recovery' as const,
        'recovery' as const,
        'vendor_boot' as const,
        'boot' as const,
      ),
      slotCount: fc.constantFrom(1 as const, 2 as const),
      flags: fc.record({
        startsOnce: fc.boolean(),
        hasDownload: fc.boolean(),
        restoresRecovery: fc.boolean(),
        mergesUpdates: fc.boolean(),
        strictRamdisk: fc.boolean(),
      }),
      mode: fc.constantFrom(
        'system' as const,
        'system' as const,
        'bootloader' as const,
        'off' as const,
        'looping' as const,
      ),
      unlockSwitch: fc.constantFrom('on' as const, 'off' as const, 'absent' as const),
      modules: fc.constantFrom([], ['lantern']),
      kit: fc.constantFrom('burrow 7.3', 'burrow 7.3', 'burrow 7.3', null),
      packages: fc.subarray([AUGUST, SEPTEMBER, OCTOBER], { minLength: 2 }),
      incremental: fc.boolean(),
      kept: fc.subarray([`stock ${SEPTEMBER}`, `patched ${SEPTEMBER}`, `stock ${OCTOBER}`]),
      limits: fc.record({
        computer: fc.constantFrom(true, true, true, false),
        wipeAllowed: fc.boolean(),
        keepFuse: fc.constantFrom(false, false, true),
        imageBackup: fc.constantFrom(false, false, false, true),
        patchThere: fc.constantFrom(false, false, false, true),
      }),
      fuse: fc.constantFrom(0, 1, 1, 5),
    })
    .map((v) => {
      const partitionBytes = Object.fromEntries(
        [...new Set([v.root, v.home, 'boot'])].map((name) => [name, 8192]),
      );
      const running = v.mode === 'system' ? undefined : { mode: v.mode, running: null };
      const damaged = v.mode === 'looping';
      const context = world({
        rooted: v.rooted && !v.locked,
        recovery: v.recovery && !v.locked,
        locked: v.locked,
        profile: {
          rootPartition: v.root,
          recoveryHome: v.home,
          slotCount: v.slotCount,
          partitionBytes,
          openBuilds: v.open ? [SEPTEMBER] : [],
          sideloadsDown: v.open
            ? [{ from: SEPTEMBER, to: AUGUST, ...(v.incremental ? { bootloader: 0 } : {}) }]
            : [],
          ...v.flags,
        },
        state: {
          ...running,
          unlockSwitch: v.unlockSwitch,
          modules: { on: true, ids: v.rooted ? v.modules : [] },
          floors: { bootloader: v.fuse, fuse: v.fuse, index: 0 },
        },
        context: {
          goal: v.goal,
          target:
            v.odd ?? (v.goal === 'monthly update' ? OCTOBER : v.goal === 'downgrade' ? AUGUST : SEPTEMBER),
          kit: v.kit,
          recovery: v.recovery ? { name: 'Lifeboat', opensUpTo: 36 } : null,
          fullPackages: v.packages,
          incrementalTo: v.incremental ? [OCTOBER] : [],
          kept: v.kept,
          limits: v.limits,
        },
      });
      if (!damaged) return context;
      const key = `${v.root}_a`;
      return {
        ...context,
        start: {
          ...context.start,
          images: { ...context.start.images, [key]: { ...context.start.images[key]!, broken: 'damaged' } },
        },
      };
    });

  it(
    'every plan that is given reaches its goal when it is played, within every limit',
    { timeout: 300_000 },
    () => {
      let given = 0;
      let notFound = 0;
      fc.assert(
        fc.property(anyWorld, (context) => {
          const { plans, others } = planRound(context);
          for (const plan of plans) {
            given += 1;
            const end = play(context, plan);
            if (!context.limits.wipeAllowed)
              expect(end.handset.data.wipes, plan.lane.id).toBe(context.start.data.wipes);
            if (context.limits.keepFuse)
              expect(end.handset.record.fuseBlown).toBe(context.start.record.fuseBlown);
            expect(plan.steps.every((step) => step.after.mode !== 'dead')).toBe(true);
            const actions = plan.steps.map((step) => step.action);
            // what is unlocked and stays so needs no switch
            if (!context.start.locked) expect(actions).not.toContain('unlock-switch');
            if (context.limits.patchThere)
              expect(actions.some((action) => action === 'patch' || action === 'patch-target')).toBe(false);
            if (context.limits.imageBackup && context.goal !== 'repair')
              expect(actions).toContain('back-up-image');
          }
          for (const out of others) {
            expect(out.reason).toMatch(/\.$/);
            if (out.verdict === 'not found') notFound += 1;
          }
        }),
        tries(300),
      );
      expect(given).toBeGreaterThan(times(80, 1600));
      // the budget is wide enough that hardly a search runs out of it; where one does it says so
      expect(notFound).toBeLessThan(times(20, 400));
    },
  );
});
