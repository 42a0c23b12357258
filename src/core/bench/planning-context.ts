import { downgradeEdge } from '../feasibility/floors';
import type { RootPartition } from '../fit/root-partition';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { BuildFacts, HandsetProfile, Slot } from '../handset/state';
import { PLAIN_PROFILE } from '../handset/state';
import { switchOff } from '../modules/switch-off';
import type { GoalId, Limits, PlanContext } from '../planning/context';
import { PLAIN_WEIGHTS } from '../planning/context';
import { isUpdate } from '../planning/goals';
import type { RootState } from '../schedule/continuity';
import type { Bench, KnownBuild, NotedEdge, Subject } from './bench';
import { floorOf } from '../judge/write-rules';
import { rootImageOf, stockImageOf } from './root-image';
import {
  kitFor,
  kitItem,
  nextBuild,
  recoveriesShelved,
  recoveryOf,
  rootOf,
  rootToBothSlots,
} from './judgements';
import { judgeModules, modulesOf } from './modules-judged';
import { bootloaderLevel, bringsBootloader, wholeMissing, wholePackage } from './whole-build';
import { dataIsAtFault, startState } from './start-state';

/*
 * A handset as the machine sees it, from all that is known. Pure; what is not known is taken for granted in
 * words.
 */

export interface WaysWish {
  readonly goal: GoalId | null;
  /** Fingerprint of a build; null for the one that the goal is about. */
  readonly target: string | null;
  readonly limits: Limits;
}

/** What the log adds: the person's own times, and ways down that are known. */
export interface Learnt {
  readonly pace: PlanContext['pace'];
  readonly edges: readonly NotedEdge[];
}

export interface Assumed {
  readonly context: PlanContext;
  readonly assumptions: readonly string[];
}

const ROOTED: readonly RootState[] = ['proven', 'unproven'];

export function likelyGoal({ root }: Pick<Subject, 'root'>, behind: boolean): GoalId {
  if (root === 'broken') return 'repair';
  // what is only claimed is proved first: everything else rests on it
  if (root === 'unproven') return 'prove root';
  if (ROOTED.includes(root)) return behind ? 'monthly update' : 'keep a recovery';
  return root === 'lost' ? 'root again' : 'first root';
}

/** Builds of this handset that are known, the oldest first. */
export function knownBuilds(
  { facts }: Pick<Subject, 'facts'>,
  { builds }: Pick<Bench, 'builds'>,
): readonly string[] {
  const { fingerprint } = facts.typed;
  const product = fingerprint === null ? undefined : splitFingerprint(fingerprint)?.product;
  return [...builds]
    .filter((build) => build.product === product)
    .sort((a, b) => a.publishedAt - b.publishedAt)
    .map((build) => build.fingerprint);
}

function targetOf(
  subject: Subject,
  bench: Bench,
  goal: GoalId,
  wanted: string | null,
  installed: string,
): string {
  if (wanted !== null) return wanted;
  if (isUpdate(goal)) return nextBuild(subject, bench)?.fingerprint ?? installed;
  if (goal !== 'downgrade') return installed;
  const known = knownBuilds(subject, bench);
  return known[known.indexOf(installed) - 1] ?? installed;
}

/** What is taken for granted while a context is made, each said in a sentence. */
class Assumptions {
  readonly said: string[] = [];
  /** `known`, or `otherwise` with the words for it. */
  take<T>(known: T | null, otherwise: T, words: string): T {
    if (known === null) this.said.push(words);
    return known ?? otherwise;
  }
  note(holds: boolean, words: string): void {
    if (holds) this.said.push(words);
  }
}

/** What has to be known of a handset before anything can be planned. */
interface Known {
  readonly subject: Subject;
  readonly bench: Bench;
  readonly learnt: Learnt;
  readonly fingerprint: string;
  readonly seat: RootPartition & { readonly partition: string };
  /** Platform level of the installed build; 0 where it is not known. */
  readonly platform: number;
}

/** @returns the context, or what has to be known before there can be one */
export function contextOf(subject: Subject, bench: Bench, wish: WaysWish, learnt: Learnt): Assumed | string {
  const { fingerprint, sdk, currentSlot } = subject.facts.typed;
  const seat = rootOf(subject, bench);
  if (fingerprint === null) return 'Its build is not known yet.';
  if (seat.partition === null) return 'Where root sits is not known yet.';
  const assumed = new Assumptions();
  assumed.note(!seat.sure, `Root sits in ${seat.partition}, by rule of thumb only.`);
  const known: Known = {
    subject,
    bench,
    learnt,
    fingerprint,
    seat: { ...seat, partition: seat.partition },
    platform: 0,
  };
  const locked = lockedOf(subject, assumed);
  const profile = profileOf({ ...known, platform: sdk ?? 0 }, assumed);
  assumed.note(sdk === null, 'Its platform level is not known.');
  assumed.note(locked && subject.facts.value('unlockAllowed') === null, 'Its unlock switch is on.');
  const plan = planOf({ ...known, platform: sdk ?? 0 }, wish, profile, assumed);
  assumed.note(
    dataIsAtFault(subject, bench, profile.rootPartition),
    'Its image is the stock one, so what keeps it from starting lies in its data.',
  );
  assumed.note(
    plan.incrementalTo.length > 0 && isUpdate(plan.goal),
    'The system offers the new build, and its full package can be had.',
  );
  const active: Slot = currentSlot === 'b' ? 'b' : 'a';
  const start = startState(subject, bench, plan, {
    active,
    locked,
    rooted: ROOTED.includes(subject.root),
    fingerprint,
  });
  return { context: { ...plan, start }, assumptions: assumed.said };
}

const lockedOf = ({ facts }: Subject, assumed: Assumptions): boolean =>
  assumed.take(facts.typed.unlocked === null ? null : !facts.typed.unlocked, false, 'It is unlocked.');

const unlockPathOf = (told: string | null): HandsetProfile['unlockPath'] =>
  told === 'mailed code' || told === 'key chord' || told === 'none' ? told : 'command';

/** Where its recovery lives, as the machine's profile names it; null where that was never read. */
function recoveryHomeOf({ subject, bench, seat }: Known): HandsetProfile['recoveryHome'] | null {
  const { home } = recoveryOf(subject, bench, seat);
  return home === 'own partition' ? 'recovery' : home;
}

/** As somebody said, or because it was read as one that lists partitions; null where nothing tells. */
function bootloaderWritesOf({ facts: { typed, value } }: Subject): boolean | null {
  const told = value('bootloaderWrites');
  if (told !== null) return told === 'true' || told === 'yes';
  return typed.maxDownloadSize !== null || Object.keys(typed.partitions).length > 0 ? true : null;
}

/** The handset's own properties, apart from what state it is in. */
function profileOf(known: Known, assumed: Assumptions): HandsetProfile {
  const { subject, bench, seat, platform } = known;
  const { facts, handset, cells } = subject;
  const { typed, value } = facts;
  const slotCount = assumed.take<1 | 2>(
    typed.slotCount === 1 || typed.slotCount === 2 ? typed.slotCount : null,
    2,
    'It has two slots.',
  );
  const recoveryHome = assumed.take(
    recoveryHomeOf(known),
    slotCount === 1 ? 'recovery' : 'vendor_boot',
    'Where its recovery lives was never read, so no recovery is written.',
  );
  const flag = (key: string) => value(key) === 'true' || value(key) === 'yes';
  const flagOrAssume = (key: string, words: string) => {
    assumed.note(value(key) === null, words);
    return flag(key);
  };
  const { edges, alone } = waysDown(known);
  const partitions = [
    ...new Set([seat.partition, 'boot', recoveryHome, ...alone, ...cells.map((cell) => cell.partition)]),
  ];
  return {
    ...PLAIN_PROFILE,
    ...named(subject, platform),
    id: handset.id,
    rootPartition: seat.partition,
    partitionBytes: Object.fromEntries(partitions.map((name) => [name, Number.MAX_SAFE_INTEGER])),
    slotCount,
    recoveryHome,
    startsOnce:
      seat.partition === 'boot' && flagOrAssume('startsOnce', 'Its bootloader starts nothing from memory.'),
    hasDownload: flagOrAssume('downloadMode', 'It has no download mode.'),
    bootloaderWrites: assumed.take(
      bootloaderWritesOf(subject) ?? (flag('downloadMode') ? null : true),
      false,
      'Its bootloader is taken to write nothing: it was never read.',
    ),
    restoresRecovery: flag('restoresRecovery'),
    unlockPath: unlockPathOf(value('unlockPath')),
    makerFloor: value('makerFloor'),
    mergesUpdates: value('virtualAb') !== 'false' && slotCount === 2,
    builds: Object.fromEntries(
      bench.builds.map((build) => [
        build.fingerprint,
        buildFactsOf(bench, build, platform, Number(value('antiRollback') ?? 0)),
      ]),
    ),
    sideloadsDown: edges,
  };
}

/** Names and levels as it tells them; the machine needs no serial to plan. */
function named({ facts: { typed }, handset: { model } }: Subject, platform: number) {
  return {
    product: typed.device ?? '',
    model,
    serial: '',
    bootloader: typed.bootloader ?? '',
    baseband: typed.baseband ?? '',
    release: typed.release ?? '',
    firstApiLevel: typed.firstApiLevel ?? platform,
    sdk: platform,
    maxDownloadBytes: typed.maxDownloadSize ?? Number.MAX_SAFE_INTEGER,
  };
}

/** Ways to older builds that are known, and the partitions that have to go down before them. */
function waysDown({ subject, bench, learnt }: Known): {
  readonly edges: HandsetProfile['sideloadsDown'];
  readonly alone: readonly string[];
} {
  const told = learnt.edges
    .filter(({ device }) => device === subject.facts.typed.device)
    .map((edge) => ({ ...edge, allowed: edge.allowed === 'yes' }));
  // a way that was refused once is none, whatever else was noted of it
  const open = told.filter(
    ({ allowed, fromBuild, toBuild }) => allowed && downgradeEdge(told, fromBuild, toBuild)?.allowed === true,
  );
  const byId = (id: string) =>
    knownBuilds(subject, bench).find((build) => splitFingerprint(build)?.id === id);
  return {
    alone: open.some(({ bootloader }) => bootloader !== null) ? ['bootloader'] : [],
    edges: open.flatMap(({ fromBuild, toBuild, bootloader }) => {
      const [from, to] = [byId(fromBuild), byId(toBuild)];
      return from !== undefined && to !== undefined
        ? [{ from, to, ...(bootloader === null ? {} : { bootloader }) }]
        : [];
    }),
  };
}

/** What is wanted, and what there is for it: everything of a context but where the handset stands. */
function planOf(
  known: Known,
  wish: WaysWish,
  profile: HandsetProfile,
  assumed: Assumptions,
): Omit<PlanContext, 'start'> {
  const { subject, bench, learnt, fingerprint, platform } = known;
  const next = nextBuild(subject, bench);
  const goal = wish.goal ?? likelyGoal(subject, next !== null);
  const target = targetOf(subject, bench, goal, wish.target, fingerprint);
  const fuse = subject.facts.value('antiRollback');
  assumed.note(
    fuse !== null && bootloaderLevel(bench, target) === null,
    'The bootloader of the wanted build is not below the fuse; its image tells before it is written.',
  );
  const wantedSdk = platform + releaseStep(fingerprint, target);
  assumed.note(wantedSdk !== platform, `Its new release has platform level ${wantedSdk}, by rule of thumb.`);
  const kit = kitFor(bench, profile.rootPartition, platform === 0 ? null : wantedSdk);
  const own = recoveriesShelved(subject, bench)[0];
  return {
    profile,
    goal,
    target,
    kit: kit && kitItem(kit),
    recovery: own ? { name: `${own.name} ${own.version}`, opensUpTo: own.sdkTo ?? platform } : null,
    fullPackages: [...new Set([...knownBuilds(subject, bench), fingerprint])],
    incrementalTo: next ? [next.fingerprint] : [],
    kept: keptOf(known, profile),
    limits: wish.limits,
    weights: PLAIN_WEIGHTS,
    recoveryHomeRead: recoveryHomeOf(known) !== null,
    bothSlots: rootToBothSlots(
      subject,
      bench,
      { partition: profile.rootPartition },
      fingerprint,
      subject.facts.typed.currentSlot === 'b' ? 'b' : 'a',
    )
      ? [fingerprint]
      : [],
    fuseKnown: fuse !== null || keepsFuse(subject, bench, target),
    pace: learnt.pace,
    modulesOff: isUpdate(goal) ? modulesOffFor(known, target, wish.limits) : [],
  };
}

/** Writing all of a build is known not to go below the fuse: it brings no bootloader, or none that is older. */
function keepsFuse({ facts }: Pick<Subject, 'facts'>, bench: Bench, target: string): boolean {
  if (!bringsBootloader(bench, target)) return true;
  const versions = wholePackage(bench, target)?.report.build.requiredBootloader ?? [];
  const running = facts.typed.bootloader;
  return floorOf({ level: null, versions, fuse: null, running, runningLevel: null })[0] === true;
}

const modulesOffFor = ({ subject, bench, fingerprint }: Known, target: string, limits: Limits) =>
  switchOff(
    judgeModules(bench, modulesOf(subject), fingerprint, target).modules,
    limits.modules ?? 'by chance',
    limits.modulesLimit,
  )
    .filter(({ off }) => off)
    .map(({ id }) => id);

/**
 * How many releases a build is on from another; a release raises the platform level by one, as a rule of
 * thumb.
 */
function releaseStep(from: string, to: string): number {
  const step = Number(splitFingerprint(to)?.release) - Number(splitFingerprint(from)?.release);
  return Number.isInteger(step) ? step : 0;
}

/** What is in the vault already, as the planner says it. */
function keptOf(
  { bench, subject }: Pick<Known, 'bench' | 'subject'>,
  { rootPartition: partition, recoveryHome }: Pick<HandsetProfile, 'rootPartition' | 'recoveryHome'>,
): string[] {
  const builds = new Set(
    bench.images.flatMap((image) => (image.partition === partition ? (image.fingerprint ?? []) : [])),
  );
  const own = [...builds].flatMap((build) => [
    ...(stockImageOf(bench, partition, build) ? [`stock ${build}`] : []),
    ...(rootImageOf(bench, partition, build) ? [`patched ${build}`] : []),
  ]);
  const recovery = bench.builds
    .filter(({ fingerprint }) => stockImageOf(bench, recoveryHome, fingerprint))
    .map(({ fingerprint }) => `stock recovery ${fingerprint}`);
  const whole = bench.builds
    .filter((build) => wholeMissing(bench, build.fingerprint, subject.facts.typed.partitions)?.length === 0)
    .map((build) => `whole ${build.fingerprint}`);
  const opened = bench.packages.flatMap(({ report }) =>
    !report.incremental && report.build.fingerprint !== null ? [`package ${report.build.fingerprint}`] : [],
  );
  return [...own, ...recovery, ...whole, ...opened];
}

/**
 * A bootloader whose level nobody has read is taken as not below the fuse; it is read before it is written.
 */
function buildFactsOf(bench: Bench, build: KnownBuild, sdk: number, fuse: number): BuildFacts {
  return {
    patchLevel: build.patchLevel ?? '1970-01-05',
    sdk,
    index: 0,
    bootloader: bootloaderLevel(bench, build.fingerprint) ?? fuse,
  };
}
