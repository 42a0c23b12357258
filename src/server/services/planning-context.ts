import 'server-only';
import { downgradeEdge } from '@/core/feasibility/floors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { onSlot } from '@/core/handset/builds';
import type { BuildFacts, HandsetProfile, HandsetState, ImageFacts, Slot } from '@/core/handset/state';
import { otherSlot, PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import type { GoalId, Limits, PlanContext } from '@/core/planning/context';
import { isUpdate } from '@/core/planning/goals';
import { patchedImage, PLAIN_WEIGHTS, recoveryOfOnes, stockImage } from '@/core/planning/context';
import { switchOff } from '@/core/modules/switch-off';
import type { RootState } from '@/core/schedule/continuity';
import type { DowngradeEdgeRow } from '../db/models';
import type { Bench, Subject } from './judgements';
import { judgeModules, moduleIdsOf, modulesOf } from './module-judgements';
import { bootloaderLevel, kitSupports, nextBuild, recoveriesShelved, recoveryOf, rootOf, wholeMissing } from './judgements';

/* A handset as the machine sees it, from all that is known. Pure; what is not known is taken for granted in words. */

export interface WaysWish {
  readonly goal: GoalId | null;
  /** Fingerprint of a build; null for the one that the goal is about. */
  readonly target: string | null;
  readonly limits: Limits;
}

/** What the log adds: the person's own times, and ways down that are known. */
export interface Learnt {
  readonly pace: PlanContext['pace'];
  readonly edges: readonly Readonly<DowngradeEdgeRow>[];
}

export interface Assumed {
  readonly context: PlanContext;
  readonly assumptions: readonly string[];
}

const ROOTED: readonly RootState[] = ['proven', 'unproven'];

export function likelyGoal({ root }: Pick<Subject, 'root'>, behind: boolean): GoalId {
  if (root === 'broken') return 'repair';
  if (ROOTED.includes(root)) return behind ? 'monthly update' : 'keep a recovery';
  return root === 'lost' ? 'root again' : 'first root';
}

/** Builds of this handset that are known, the oldest first. */
export function knownBuilds({ facts }: Pick<Subject, 'facts'>, { builds }: Pick<Bench, 'builds'>): readonly string[] {
  const { fingerprint } = facts.typed;
  const product = fingerprint === null ? undefined : splitFingerprint(fingerprint)?.product;
  return [...builds]
    .filter((build) => build.product === product)
    .sort((a, b) => a.publishedAt - b.publishedAt)
    .map((build) => build.fingerprint);
}

function targetOf(subject: Subject, bench: Bench, goal: GoalId, wanted: string | null, installed: string): string {
  if (wanted !== null) return wanted;
  if (isUpdate(goal)) return nextBuild(subject, bench)?.fingerprint ?? installed;
  if (goal !== 'downgrade') return installed;
  const known = knownBuilds(subject, bench);
  return known[known.indexOf(installed) - 1] ?? installed;
}

/** @returns the context, or what has to be known before there can be one */
export function contextOf(subject: Subject, bench: Bench, wish: WaysWish, learnt: Learnt): Assumed | string {
  const { facts, root } = subject;
  const { fingerprint, slotCount, currentSlot, sdk } = facts.typed;
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
  const home = recoveryOf(subject, bench, seat).home;
  const recoveryHome = assume(
    home === 'own partition' ? ('recovery' as const) : home,
    slots === 1 ? 'recovery' : 'vendor_boot',
    'Where its recovery lives was never read, so no recovery is written.',
  );
  const locked = assume(facts.typed.unlocked === null ? null : !facts.typed.unlocked, false, 'It is unlocked.');
  const platform = assume(sdk, 0, 'Its platform level is not known.');
  const active: Slot = currentSlot === 'b' ? 'b' : 'a';
  const flag = (key: string) => facts.value(key) === 'true' || facts.value(key) === 'yes';
  const flagOrAssume = (key: string, words: string) => (facts.value(key) === null ? (assumptions.push(words), false) : flag(key));
  const told = learnt.edges.filter(({ device }) => device === facts.typed.device).map((edge) => ({ ...edge, allowed: edge.allowed === 'yes' }));
  // a way that was refused once is none, whatever else was noted of it
  const edges = told.filter(({ allowed, fromBuild, toBuild }) => allowed && downgradeEdge(told, fromBuild, toBuild)?.allowed === true);
  const alone = edges.some((edge) => edge.bootloader !== null) ? ['bootloader'] : [];
  const partitions = [...new Set([seat.partition, 'boot', recoveryHome, ...alone, ...subject.cells.map((cell) => cell.partition)])];
  const byId = (id: string) => knownBuilds(subject, bench).find((build) => splitFingerprint(build)?.id === id);
  const profile: HandsetProfile = {
    ...PLAIN_PROFILE,
    id: subject.handset.id,
    product: facts.typed.device ?? '',
    model: subject.handset.model,
    serial: '',
    bootloader: facts.typed.bootloader ?? '',
    baseband: facts.typed.baseband ?? '',
    release: facts.typed.release ?? '',
    firstApiLevel: facts.typed.firstApiLevel ?? platform,
    sdk: platform,
    maxDownloadBytes: facts.typed.maxDownloadSize ?? Number.MAX_SAFE_INTEGER,
    rootPartition: seat.partition,
    partitionBytes: Object.fromEntries(partitions.map((name) => [name, Number.MAX_SAFE_INTEGER])),
    slotCount: slots,
    recoveryHome,
    startsOnce: seat.partition === 'boot' && flagOrAssume('startsOnce', 'Its bootloader starts nothing from memory.'),
    hasDownload: flagOrAssume('downloadMode', 'It has no download mode.'),
    restoresRecovery: flag('restoresRecovery'),
    unlockPath: unlockPathOf(facts.value('unlockPath')),
    makerFloor: facts.value('makerFloor'),
    mergesUpdates: facts.value('virtualAb') !== 'false' && slots === 2,
    builds: Object.fromEntries(
      bench.builds.map((build) => [build.fingerprint, buildFactsOf(bench, build, platform, Number(facts.value('antiRollback') ?? 0))]),
    ),
    sideloadsDown: edges.flatMap((edge) => {
      const [from, to] = [byId(edge.fromBuild), byId(edge.toBuild)];
      return from !== undefined && to !== undefined ? [{ from, to, ...(edge.bootloader === null ? {} : { bootloader: edge.bootloader }) }] : [];
    }),
  };
  if (locked && facts.value('unlockAllowed') === null) assumptions.push('Its unlock switch is on.');
  const next = nextBuild(subject, bench);
  const goal = wish.goal ?? likelyGoal(subject, next !== null);
  const target = targetOf(subject, bench, goal, wish.target, fingerprint);
  const fuse = facts.value('antiRollback');
  const level = bootloaderLevel(bench, target);
  if (fuse !== null && level === null)
    assumptions.push('The bootloader of the wanted build is not below the fuse; its image tells before it is written.');
  const wantedSdk = platform + releaseStep(fingerprint, target);
  if (wantedSdk !== platform) assumptions.push(`Its new release has platform level ${wantedSdk}, by rule of thumb.`);
  const kit = bench.kits.find((one) => {
    const { sdk: range, partitions: fits } = kitSupports(one);
    return (range === null || platform === 0 || (wantedSdk >= range[0] && wantedSdk <= range[1])) && fits?.includes(profile.rootPartition) !== false;
  });
  const own = recoveriesShelved(subject, bench)[0];
  const base = {
    profile,
    goal,
    target,
    kit: kit ? `${kit.kitId} ${kit.version}` : null,
    recovery: own ? { name: `${own.name} ${own.version}`, opensUpTo: own.sdkTo ?? platform } : null,
    fullPackages: [...new Set([...knownBuilds(subject, bench), fingerprint])],
    incrementalTo: next ? [next.fingerprint] : [],
    kept: keptOf(bench, profile.rootPartition),
    limits: wish.limits,
    weights: PLAIN_WEIGHTS,
    recoveryHomeRead: home !== null,
    fuseKnown: fuse !== null,
    pace: learnt.pace,
    modulesOff: isUpdate(goal)
      ? switchOff(judgeModules(bench, modulesOf(subject), fingerprint, target).modules, wish.limits.modules ?? 'by chance', wish.limits.modulesLimit)
          .filter(({ off }) => off)
          .map(({ id }) => id)
      : [],
  };
  if (dataIsAtFault(subject, bench, profile.rootPartition))
    assumptions.push('Its image is the stock one, so what keeps it from starting lies in its data.');
  if (next && isUpdate(goal)) assumptions.push('The system offers the new build, and its full package can be had.');
  const start = stateOf(
    subject,
    bench,
    { ...base, start: null as unknown as HandsetState },
    { active, locked, rooted: ROOTED.includes(root), fingerprint },
  );
  return { context: { ...base, start }, assumptions };
}

/** How many releases a build is on from another; a release raises the platform level by one, as a rule of thumb. */
function releaseStep(from: string, to: string): number {
  const [a, b] = [Number(splitFingerprint(from)?.release), Number(splitFingerprint(to)?.release)];
  return Number.isInteger(a) && Number.isInteger(b) ? b - a : 0;
}

const unlockPathOf = (told: string | null): HandsetProfile['unlockPath'] =>
  told === 'mailed code' || told === 'key chord' || told === 'none' ? told : 'command';

/** What is in the vault already, as the planner says it. */
function keptOf(bench: Bench, partition: string): string[] {
  const own = bench.images.filter(
    (image) => image.partition === partition && image.fingerprint !== null && (image.role === 'stock' || image.proof !== null),
  );
  const whole = bench.builds.filter((build) => wholeMissing(bench, build.fingerprint)?.length === 0).map((build) => `whole ${build.fingerprint}`);
  const opened = bench.packages.flatMap(({ report }) =>
    !report.incremental && report.build.fingerprint !== null ? [`package ${report.build.fingerprint}`] : [],
  );
  return [...own.map((image) => `${image.role === 'stock' ? 'stock' : 'patched'} ${image.fingerprint}`), ...whole, ...opened];
}

/** A bootloader whose level nobody has read is taken as not below the fuse; it is read before it is written. */
function buildFactsOf(bench: Bench, build: Bench['builds'][number], sdk: number, fuse: number): BuildFacts {
  return { patchLevel: build.patchLevel ?? '1970-01-05', sdk, index: 0, bootloader: bootloaderLevel(bench, build.fingerprint) ?? fuse };
}

interface Known {
  readonly active: Slot;
  readonly locked: boolean;
  readonly rooted: boolean;
  readonly fingerprint: string;
}

/** It does not start though its image is known to be the stock one of its build: what is left is its data. */
function dataIsAtFault({ root, cells, facts }: Subject, { images }: Bench, partition: string): boolean {
  const { currentSlot, fingerprint } = facts.typed;
  const cell = cells.find((one) => one.partition === partition && (one.slot === (currentSlot ?? '-') || one.slot === '-'));
  const image = images.find((one) => one.sha256 === cell?.sha256);
  return root === 'broken' && image?.role === 'stock' && image.fingerprint === fingerprint;
}

/** Newer than any build: keys that nothing here opens. */
const UNOPENED = '9999-12-31';

function stateOf(subject: Subject, bench: Bench, context: PlanContext, known: Known): HandsetState {
  const { cells, root, facts } = subject;
  const { profile } = context;
  const { active, fingerprint, rooted } = known;
  const vault = bench.images;
  const held = (sha256: string | null) => vault.find((image) => image.sha256 === sha256);
  const onOther = cells.filter((cell) => cell.slot !== active && cell.slot !== '-').map((cell) => held(cell.sha256)?.fingerprint ?? null);
  const other = onOther.find((one) => one !== null) ?? fingerprint;
  const builds = { a: active === 'a' ? fingerprint : other, b: active === 'b' ? fingerprint : other };
  // for a repair the other slot counts only where it is known what it holds, and where no update has merged over it
  const lost =
    context.goal === 'repair' && (onOther.every((one) => one === null) || (profile.mergesUpdates && facts.value('snapshot') !== 'snapshotted'));
  const images: Record<string, ImageFacts> = {};
  for (const slot of profile.slotCount === 2 ? (['a', 'b'] as const) : ([active] as const)) {
    for (const partition of Object.keys(profile.partitionBytes)) {
      const cell = cells.find((one) => one.partition === partition && (one.slot === slot || one.slot === '-'));
      const image = held(cell?.sha256 ?? null);
      const build = image?.fingerprint ?? builds[slot];
      const stock = stockImage(partition, build);
      images[onSlot(partition, slot)] =
        image?.role === 'patched' ? patchedImage(context, build) : image?.role === 'recovery' ? recoveryOfOnes(context, build) : stock;
      // a write that was cut short: nobody knows what lies there, and it counts as what does not start
      if (cell?.verdict === 'unknown') images[onSlot(partition, slot)] = { ...stock, broken: 'its write was cut short' };
      else if (lost && slot !== active) images[onSlot(partition, slot)] = { ...stock, broken: 'nobody knows whether it is whole' };
      // locking trusts nothing that was not seen
      else if (context.goal === 'lock again' && image === undefined) images[onSlot(partition, slot)] = { ...stock, broken: 'it was never read' };
    }
  }
  const key = onSlot(profile.rootPartition, active);
  if (rooted) images[key] = patchedImage(context, fingerprint);
  if (root === 'broken' && !dataIsAtFault(subject, bench, profile.rootPartition))
    images[key] = { ...images[key]!, broken: images[key]!.broken ?? 'it does not start' };
  const proven = { bootable: true, proven: true, triesLeft: profile.triesPerSlot };
  const allowed = facts.value('unlockAllowed');
  const waits = facts.value('snapshot') === 'snapshotted';
  const level = Math.max(bootloaderLevel(bench, fingerprint) ?? 0, Number(facts.value('antiRollback') ?? 0));
  return {
    ...PLAIN_STATE,
    mode: root === 'broken' ? 'looping' : 'system',
    locked: known.locked,
    active: waits ? otherSlot(active) : active,
    slots: { a: proven, b: proven },
    builds: waits ? { ...builds, [otherSlot(active)]: context.target } : builds,
    images,
    running: root === 'broken' ? null : { slot: active, build: fingerprint, rooted },
    rootApp: facts.value('rootApp') === 'unfinished' ? 'unfinished' : rooted || root === 'lost' ? 'ready' : 'absent',
    unlockSwitch: allowed === 'off' || allowed === 'greyed' || allowed === 'absent' ? allowed : 'on',
    update: waits ? { slot: otherSlot(active), build: context.target } : null,
    snapshot: facts.value('snapshot') === 'merging' ? 'merging' : waits ? 'waiting' : 'none',
    modules: { on: !subject.history.openPutBacks.some(({ kind }) => kind === 'modules-off'), ids: moduleIdsOf(subject) },
    // a handset that runs is not below its fuse
    floors: { bootloader: level, fuse: Number(facts.value('antiRollback') ?? 0), index: 0 },
    // what is read as unknown of a fuse is taken as blown where the handset was rooted once
    record: { fuseBlown: root !== 'stock' && root !== 'unknown', writes: 0 },
    data: {
      ...PLAIN_STATE.data,
      encrypted: facts.value('encrypted') !== 'false',
      committedBy: fingerprint,
      keyLevel: dataIsAtFault(subject, bench, profile.rootPartition) ? UNOPENED : facts.dataPatchLevel,
    },
  };
}
