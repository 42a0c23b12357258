import 'server-only';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { onSlot } from '@/core/handset/builds';
import type { BuildFacts, HandsetProfile, HandsetState, ImageFacts, Slot } from '@/core/handset/state';
import { PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import type { GoalId, Limits, PlanContext } from '@/core/planning/context';
import { PLAIN_WEIGHTS, patchedImage, stockImage } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';
import type { LanePlan } from '@/core/planning/plan-round';
import { planRound } from '@/core/planning/plan-round';
import { lintPlan } from '@/core/planning/lint';
import { riskOf } from '@/core/planning/slips';
import { stopHere } from '@/core/planning/stop-here';
import type { RootState } from '@/core/schedule/continuity';
import { ONE_IMAGE_ONCE } from '@/core/lanes/one-image-once';
import { needHandset, readBench, readSubject } from './bench-service';
import type { Bench, Subject } from './judgements';
import { kitSupports, nextBuild, recoveriesFor, recoveryOf, rootOf } from './judgements';

/* A handset as the machine sees it, from all that is known; what is not known is taken for granted in words. */

export interface WaysWish {
  readonly goal: GoalId | null;
  readonly limits: Limits;
}

/** Anything but a known goal asks for the likeliest one. */
export function readWish(query: { readonly goal?: string; readonly computer?: string; readonly wipe?: string; readonly fuse?: string }): WaysWish {
  const goal = (Object.keys(GOAL_WORDS) as GoalId[]).find((id) => id === query.goal) ?? null;
  return { goal, limits: { computer: query.computer !== 'no', wipeAllowed: query.wipe === 'yes', keepFuse: query.fuse === 'keep' } };
}

const ROOTED: readonly RootState[] = ['proven', 'unproven'];

function likelyGoal({ root }: Subject, behind: boolean): GoalId {
  if (root === 'broken') return 'repair';
  if (ROOTED.includes(root)) return behind ? 'monthly update' : 'keep a recovery';
  if (root === 'lost') return 'root again';
  return 'first root';
}

interface Assumed {
  readonly context: PlanContext;
  readonly assumptions: readonly string[];
}

function contextOf(subject: Subject, bench: Bench, { goal, limits }: WaysWish): Assumed | string {
  const { facts, cells, root } = subject;
  const { typed } = facts;
  const { fingerprint, slotCount, currentSlot, sdk } = typed;
  const seat = rootOf(subject, bench);
  if (fingerprint === null) return 'Its build is not known yet.';
  if (seat.partition === null) return 'Where root sits is not known yet.';
  const assumptions: string[] = [];
  const assume = <T>(known: T | null, otherwise: T, words: string): T => {
    if (known === null) assumptions.push(words);
    return known ?? otherwise;
  };
  if (!seat.sure) assumptions.push(`Root sits in ${seat.partition}, by rule of thumb only.`);
  const slots: 1 | 2 = assume(slotCount === 1 ? 1 : slotCount === 2 ? 2 : null, 2, 'It has two slots.') as 1 | 2;
  const active: Slot = currentSlot === 'b' ? 'b' : 'a';
  const home = recoveryOf(subject, bench, seat).home;
  const recoveryHome = assume(
    home === 'own partition' ? ('recovery' as const) : home,
    slots === 1 ? 'recovery' : 'vendor_boot',
    `Its recovery lives in ${slots === 1 ? 'a partition of its own' : 'vendor_boot'}.`,
  );
  const locked = assume(typed.unlocked === null ? null : !typed.unlocked, false, 'It is unlocked.');
  const allowed = facts.value('unlockAllowed');
  const platform = assume(sdk, 0, 'Its platform level is not known.');
  const partitions = [...new Set([seat.partition, 'boot', recoveryHome, ...cells.map((cell) => cell.partition)])];
  const profile: HandsetProfile = {
    ...PLAIN_PROFILE,
    id: subject.handset.id,
    product: typed.device ?? '',
    model: subject.handset.model,
    serial: '',
    bootloader: typed.bootloader ?? '',
    baseband: typed.baseband ?? '',
    release: typed.release ?? '',
    firstApiLevel: typed.firstApiLevel ?? platform,
    sdk: platform,
    maxDownloadBytes: typed.maxDownloadSize ?? Number.MAX_SAFE_INTEGER,
    rootPartition: seat.partition,
    partitionBytes: Object.fromEntries(partitions.map((name) => [name, Number.MAX_SAFE_INTEGER])),
    slotCount: slots,
    recoveryHome,
    mergesUpdates: facts.value('virtualAb') !== 'false' && slots === 2,
    builds: Object.fromEntries(bench.builds.map((build) => [build.fingerprint, buildFactsOf(build.patchLevel, platform)])),
  };
  assumptions.push('Its bootloader starts nothing from memory, and it has no download mode.');
  if (locked && allowed === null) assumptions.push('Its unlock switch is on.');
  assumptions.push('No build is below its bootloader fuse: that has to be known before any lane writes a bootloader.');
  const next = nextBuild(subject, bench);
  const wanted = goal ?? likelyGoal(subject, next !== null);
  const kit = bench.kits.find((one) => {
    const { sdk: range, partitions: fits } = kitSupports(one);
    return (range === null || platform === 0 || (platform >= range[0] && platform <= range[1])) && fits?.includes(profile.rootPartition) !== false;
  });
  const own = recoveriesFor(subject, bench)[0];
  const product = splitFingerprint(fingerprint)?.product;
  const known = bench.builds.filter((build) => build.product === product).map((build) => build.fingerprint);
  const base = {
    profile,
    goal: wanted,
    target: wanted === 'monthly update' && next ? next.fingerprint : fingerprint,
    kit: kit ? `${kit.kitId} ${kit.version}` : null,
    recovery: own ? { name: `${own.name} ${own.version}`, opensUpTo: own.sdkTo ?? platform } : null,
    fullPackages: [...new Set([...known, fingerprint])],
    incrementalTo: next ? [next.fingerprint] : [],
    kept: bench.images
      .filter((image) => image.partition === profile.rootPartition && image.fingerprint !== null && (image.role === 'stock' || image.proof !== null))
      .map((image) => `${image.role === 'stock' ? 'stock' : 'patched'} ${image.fingerprint}`),
    limits,
    weights: PLAIN_WEIGHTS,
  };
  if (next && wanted === 'monthly update') assumptions.push('The system offers the new build, and its full package can be had.');
  const start = stateOf(
    subject,
    bench,
    { ...base, start: null as unknown as HandsetState },
    { active, locked, unlockSwitch: allowed, rooted: ROOTED.includes(root), fingerprint },
  );
  return { context: { ...base, start }, assumptions };
}

const buildFactsOf = (patchLevel: string | null, sdk: number): BuildFacts => ({
  patchLevel: patchLevel ?? '1970-01-05',
  sdk,
  index: 0,
  bootloader: 0,
});

interface Known {
  readonly active: Slot;
  readonly locked: boolean;
  readonly unlockSwitch: string | null;
  readonly rooted: boolean;
  readonly fingerprint: string;
}

function stateOf({ cells, root, facts }: Subject, { images: vault }: Bench, context: PlanContext, known: Known): HandsetState {
  const { profile } = context;
  const { active, fingerprint, rooted } = known;
  const onOther = cells
    .filter((cell) => cell.slot !== active && cell.slot !== '-')
    .map((cell) => vault.find((image) => image.sha256 === cell.sha256)?.fingerprint ?? null);
  const other = onOther.find((one) => one !== null) ?? fingerprint;
  const builds = { a: active === 'a' ? fingerprint : other, b: active === 'b' ? fingerprint : other };
  const images: Record<string, ImageFacts> = {};
  for (const slot of profile.slotCount === 2 ? (['a', 'b'] as const) : ([active] as const)) {
    for (const partition of Object.keys(profile.partitionBytes)) {
      const cell = cells.find((one) => one.partition === partition && (one.slot === slot || one.slot === '-'));
      const held = vault.find((image) => image.sha256 === cell?.sha256);
      const build = held?.fingerprint ?? builds[slot];
      images[onSlot(partition, slot)] = held?.role === 'patched' ? patchedImage(context, build) : stockImage(partition, build);
    }
  }
  const key = onSlot(profile.rootPartition, active);
  if (rooted) images[key] = patchedImage(context, fingerprint);
  if (root === 'broken') images[key] = { ...images[key]!, broken: 'it does not start' };
  const proven = { bootable: true, proven: true, triesLeft: profile.triesPerSlot };
  const allowed = known.unlockSwitch;
  return {
    ...PLAIN_STATE,
    mode: root === 'broken' ? 'looping' : 'system',
    locked: known.locked,
    active,
    slots: { a: proven, b: proven },
    builds,
    images,
    running: root === 'broken' ? null : { slot: active, build: fingerprint, rooted },
    rootApp: rooted ? 'ready' : 'absent',
    unlockSwitch: allowed === 'off' || allowed === 'greyed' || allowed === 'absent' ? allowed : 'on',
    snapshot: facts.value('snapshot') === 'merging' ? 'merging' : 'none',
    // a handset that was rooted once has had its fuse blown, where it has one
    record: { fuseBlown: root !== 'stock' && root !== 'unknown', writes: 0 },
    data: { ...PLAIN_STATE.data, encrypted: facts.value('encrypted') !== 'false', committedBy: fingerprint, keyLevel: facts.dataPatchLevel },
  };
}

function planView(context: PlanContext, plan: LanePlan): LanePlanView {
  const ends = stopHere(context, plan);
  let wipes = context.start.data.wipes;
  return {
    ...plan,
    notes: lintPlan(context, plan),
    risk: riskOf(context, plan),
    walkable: plan.lane.id === ONE_IMAGE_ONCE.id && context.goal !== 'repair',
    steps: plan.steps.map(({ action, title, who, minutes, writes, after }, i) => {
      const erased = after.data.wipes > wipes;
      wipes = after.data.wipes;
      return {
        title,
        who,
        minutes,
        writes,
        wipes: erased,
        starts: action === 'start' || action === 'finish-start',
        mode: who === 'computer' ? 'computer' : after.mode,
        ifItEndsHere: ends[i]!,
      };
    }),
  };
}

/** Every lane to a goal, compared, each proved by playing it. @throws {EternoError} `not-found` */
export async function waysOf(handsetId: string, wish: WaysWish): Promise<WaysView> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  const goals = (Object.keys(GOAL_WORDS) as GoalId[]).filter((id) => id !== 'downgrade').map((id) => ({ id, words: GOAL_WORDS[id] }));
  const assumed = contextOf(subject, bench, wish);
  const none = { goals, limits: wish.limits, target: null, plans: [], others: [], pick: null, why: '', assumptions: [] };
  if (typeof assumed === 'string') return { ...none, goal: wish.goal ?? 'first root', missing: assumed };
  const { context, assumptions } = assumed;
  const { plans, others, pick, why } = planRound(context);
  return {
    goal: context.goal,
    goals,
    limits: context.limits,
    target: splitFingerprint(context.target)?.id ?? context.target,
    plans: plans.map((plan) => planView(context, plan)),
    others,
    pick,
    why,
    assumptions,
    missing: null,
  };
}
