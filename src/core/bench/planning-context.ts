import { healthy } from '../rescue/healthy';
import { withFault } from '../rescue/repairs';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { HandsetProfile, Slot } from '../handset/state';
import { floorOf } from '../judge/write-rules';
import { switchOff } from '../modules/switch-off';
import type { GoalId, Limits, PlanContext } from '../planning/context';
import { patchedWithRecovery, rebuiltRecovery } from '../planning/action-kit';
import { PLAIN_WEIGHTS } from '../planning/context';
import { goesToStock, isUpdate, wantsRoot } from '../planning/goals';
import type { RootState } from '../schedule/continuity';
import type { Assumption } from '../words/assumptions';
import { Assumptions } from './assumed';
import type { Bench, KeptRecovery, Subject } from './bench';
import type { Known, Learnt } from './handset-profile';
import { profileOf, recoveryHomeOf } from './handset-profile';
import { installFor } from './install-package';
import { kitFor, kitItem, nextBuild, recoveriesShelved, rootOf, rootToBothSlots } from './judgements';
import { canBeHad, knownBuilds } from './known-builds';
import { judgeModules, modulesOf } from './modules-judged';
import { patchedWithRecoveryOf, rebuiltRecoveryOf } from './recovery-image';
import { rootImageOf, stockImageOf } from './root-image';
import { dataIsAtFault, startState } from './start-state';
import { otherSlotRead, snapshotKnown, unknownOf } from './unknowns';
import { bootloaderLevel, bringsBootloader, wholeMissing, wholePackage } from './whole-build';

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

export interface Assumed {
  readonly context: PlanContext;
  readonly assumptions: readonly Assumption[];
}

const ROOTED: readonly RootState[] = ['proven', 'unproven'];

export function likelyGoal({ root }: Pick<Subject, 'root'>, behind: boolean): GoalId {
  if (root === 'broken') return 'repair';
  // what is only claimed is proved first: everything else rests on it
  if (root === 'unproven') return 'prove root';
  if (ROOTED.includes(root)) return behind ? 'monthly update' : 'keep a recovery';
  return root === 'lost' ? 'root again' : 'first root';
}

/** The build that is wanted. Where a newer one waits and nobody said which of the two, root on either will do. */
function targetsOf(
  known: Known,
  goal: GoalId,
  wanted: string | null,
): Pick<PlanContext, 'target' | 'orTarget'> {
  const { subject, bench, fingerprint } = known;
  if (wanted !== null) return { target: wanted };
  const next = nextBuild(subject, bench)?.fingerprint ?? fingerprint;
  if (isUpdate(goal)) return { target: next };
  if (goal === 'downgrade') {
    const builds = knownBuilds(subject, bench);
    return { target: builds[builds.indexOf(fingerprint) - 1] ?? fingerprint };
  }
  return next !== fingerprint && updateWaits(subject) && wantsRoot(goal)
    ? eitherOf(known, next)
    : { target: fingerprint };
}

/** A plan has one kit: where each build wants its own, the newer build is the one, unless only the other has a kit. */
function eitherOf(known: Known, next: string): Pick<PlanContext, 'target' | 'orTarget'> {
  const [one, other] = [kitForBuild(known, next), kitForBuild(known, known.fingerprint)];
  if (one === other) return { target: next, orTarget: known.fingerprint };
  return { target: one ? next : known.fingerprint };
}

const kitForBuild = (known: Known, build: string) =>
  kitFor(known.bench, known.seat.partition, known.platform === 0 ? null : levelOf(known, build));

/** The platform level of a build; a release raises it by one, as a rule of thumb. */
const levelOf = ({ platform, fingerprint }: Known, build: string) =>
  platform + releaseStep(fingerprint, build);

/** @returns the context, or what has to be known before there can be one */
export function contextOf(subject: Subject, bench: Bench, wish: WaysWish, learnt: Learnt): Assumed | string {
  const { fingerprint, sdk, currentSlot } = subject.facts.typed;
  const seat = rootOf(subject, bench);
  if (fingerprint === null) return 'Its build is not known yet.';
  const { partition } = seat;
  if (partition === null) return 'Where root sits is not known yet.';
  const assumed = new Assumptions();
  assumed.note(!seat.sure, { code: 'root-place', partition });
  const platform = sdk ?? 0;
  const known: Known = { subject, bench, learnt, fingerprint, seat: { ...seat, partition }, platform };
  const locked = lockedOf(subject, assumed);
  const profile = profileOf(known, assumed);
  assumed.note(sdk === null, { code: 'platform' });
  assumed.note(locked && subject.facts.value('unlockAllowed') === null, { code: 'switch-on' });
  const plan = planOf(known, wish, profile, assumed);
  noteWhereItStands(known, plan, { locked }, assumed);
  const start = startState(subject, bench, plan, {
    active: activeOf(currentSlot),
    locked,
    rooted: ROOTED.includes(subject.root),
    fingerprint,
    waiting: waitingBuild(known, plan),
  });
  const unknown = unknownOf(subject, profile, { goal: plan.goal, locked });
  const context = supposed({ ...plan, start, unknown });
  return { context, assumptions: assumed.said };
}

/** With the fault that a case takes it to have; what no machine has changes nothing. */
function supposed(context: PlanContext): PlanContext {
  const { suppose } = context.limits;
  const world = suppose === undefined ? null : withFault(healthy(context), suppose);
  return world ? { ...context, profile: world.profile, start: world.state } : context;
}

const activeOf = (currentSlot: string | null): Slot => (currentSlot === 'b' ? 'b' : 'a');
const updateWaits = ({ facts }: Pick<Subject, 'facts'>) => facts.value('snapshot') === 'snapshotted';

/** What is taken for granted of its state, and of what comes. */
function noteWhereItStands(
  { subject, bench, fingerprint }: Known,
  plan: Omit<PlanContext, 'start'>,
  { locked }: { readonly locked: boolean },
  assumed: Assumptions,
): void {
  const { profile, goal, incrementalTo } = plan;
  assumed.note(dataIsAtFault(subject, bench, profile.rootPartition), { code: 'data-at-fault' });
  assumed.note(incrementalTo.length > 0 && isUpdate(goal), { code: 'offered' });
  assumed.note(!snapshotKnown(subject, profile), { code: 'no-update' });
  assumed.note(updateWaits(subject) && fingerprint !== plan.target, { code: 'waiting-build' });
  assumed.note(subject.root === 'unknown' && !locked, { code: 'unrooted' });
  assumed.note(
    profile.slotCount === 2 && (goesToStock(goal) || goal === 'repair') && !otherSlotRead(subject),
    { code: 'other-slot' },
  );
}

/** The build of the update that waits: the one that the goal is about, else the newest that is known. */
function waitingBuild(
  { subject, bench, fingerprint }: Known,
  { target }: Pick<PlanContext, 'target'>,
): string {
  if (target !== fingerprint) return target;
  return nextBuild(subject, bench)?.fingerprint ?? target;
}

const lockedOf = ({ facts }: Subject, assumed: Assumptions): boolean =>
  assumed.take(facts.typed.unlocked === null ? null : !facts.typed.unlocked, false, { code: 'unlocked' });

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
  const targets = targetsOf(known, goal, wish.target);
  const { target } = targets;
  const fuse = subject.facts.value('antiRollback');
  assumed.note(fuse !== null && bootloaderLevel(bench, target) === null, { code: 'target-fuse' });
  const wantedSdk = levelOf(known, target);
  assumed.note(wantedSdk !== platform, { code: 'target-level', sdk: wantedSdk });
  const kit = kitForBuild(known, target);
  const own = recoveriesShelved(subject, bench)[0] ?? null;
  return {
    profile: { ...profile, restsModulesAfter: kit?.restsAfter ?? null },
    goal,
    ...targets,
    kit: kit && kitItem(kit),
    ...(kit ? { kitChangesKernel: kit.changesKernel } : {}),
    recovery: own && recoveryOnShelf(own, platform),
    fullPackages: [...new Set([...knownBuilds(subject, bench), fingerprint])].filter((build) =>
      canBeHad(bench, build),
    ),
    incrementalTo: next ? [next.fingerprint] : [],
    kept: keptOf(known, profile, own?.sha256 ?? null),
    limits: wish.limits,
    weights: PLAIN_WEIGHTS,
    recoveryHomeRead: recoveryHomeOf(known) !== null,
    ...alsoFor(known, profile, goal, wish.limits),
    bothSlots: rootToBothSlots(
      subject,
      bench,
      { partition: profile.rootPartition },
      fingerprint,
      activeOf(subject.facts.typed.currentSlot),
    )
      ? [fingerprint]
      : [],
    fuseKnown: fuse !== null || keepsFuse(subject, bench, target),
    pace: learnt.pace,
    modulesOff: isUpdate(goal) ? modulesOffFor(known, target, wish.limits) : [],
  };
}

const installHere = ({ bench, fingerprint, platform }: Known, profile: HandsetProfile, sha256?: string) =>
  installFor(bench, sha256, {
    profile,
    build: fingerprint,
    opensUpTo: (own) =>
      opensOf(
        bench.recoveries.find((row) => row.sha256 === own),
        platform,
      ),
  });

const rebuildsFor = (goal: GoalId): Pick<PlanContext, 'rebuildsRecovery'> =>
  PUTS_RECOVERY_IN.includes(goal) ? { rebuildsRecovery: 'from a package' } : {};

/** As its image says it, else what it is said to be made for. */
const opensOf = (recovery: KeptRecovery | undefined, platform: number) =>
  recovery?.opensUpTo ?? recovery?.sdkTo ?? platform;

const recoveryOnShelf = (own: KeptRecovery, platform: number) => ({
  name: `${own.name} ${own.version}`,
  opensUpTo: opensOf(own, platform),
});

/** Rounds that put a recovery into an image that it shares; an update takes it away, and a round of its own brings it back. */
const PUTS_RECOVERY_IN: readonly GoalId[] = ['keep a recovery', 'first root', 'root again'];

/** What only some goals and handsets have. */
const alsoFor = (
  known: Known,
  profile: HandsetProfile,
  goal: GoalId,
  { install }: Limits,
): Partial<PlanContext> => ({
  ...rebuildsFor(goal),
  ...(goal === 'install a package' ? { install: installHere(known, profile, install) } : {}),
  ...looseBuildOf(known, profile),
});

/** The newest of the noted ones before the installed build that can be had and is not known to be below the fuse. */
function looseBuildOf(
  { subject, bench, fingerprint }: Known,
  { looseBuilds }: HandsetProfile,
): Pick<PlanContext, 'looseBuild'> {
  const told = subject.facts.value('antiRollback');
  if (told === null) return {};
  const fuse = Number(told);
  const known = knownBuilds(subject, bench);
  const newest = known.slice(0, Math.max(known.indexOf(fingerprint), 0)).findLast((build) => {
    const level = bootloaderLevel(bench, build);
    // one that is not in the vault yet is looked at when it is
    return looseBuilds.includes(build) && canBeHad(bench, build) && (level === null || level >= fuse);
  });
  return newest === undefined ? {} : { looseBuild: newest };
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

/** How many releases a build is on from another. */
function releaseStep(from: string, to: string): number {
  const step = Number(splitFingerprint(to)?.release) - Number(splitFingerprint(from)?.release);
  return Number.isInteger(step) ? step : 0;
}

/** What is in the vault already, as the planner says it. */
function keptOf(
  { bench, subject }: Pick<Known, 'bench' | 'subject'>,
  { rootPartition: partition, recoveryHome }: Pick<HandsetProfile, 'rootPartition' | 'recoveryHome'>,
  ownRecovery: string | null,
): string[] {
  const builds = new Set(
    bench.images.flatMap((image) => (image.partition === partition ? (image.fingerprint ?? []) : [])),
  );
  const own = [...builds].flatMap((build) => [
    ...(stockImageOf(bench, partition, build) ? [`stock ${build}`] : []),
    ...(rootImageOf(bench, partition, build) ? [`patched ${build}`] : []),
  ]);
  const bootloaders = bench.builds
    .filter(({ fingerprint }) => stockImageOf(bench, 'bootloader', fingerprint))
    .map(({ fingerprint }) => `bootloader ${fingerprint}`);
  const recovery = bench.builds
    .filter(({ fingerprint }) => stockImageOf(bench, recoveryHome, fingerprint))
    .map(({ fingerprint }) => `stock recovery ${fingerprint}`);
  const shared = bench.builds.flatMap(({ fingerprint }) => [
    ...(rebuiltRecoveryOf(bench, recoveryHome, fingerprint, ownRecovery)
      ? [rebuiltRecovery(fingerprint)]
      : []),
    ...(recoveryHome === partition && patchedWithRecoveryOf(bench, partition, fingerprint, ownRecovery)
      ? [patchedWithRecovery(fingerprint)]
      : []),
  ]);
  const whole = bench.builds
    .filter((build) => wholeMissing(bench, build.fingerprint, subject.facts.typed.partitions)?.length === 0)
    .map((build) => `whole ${build.fingerprint}`);
  const opened = bench.packages.flatMap(({ report }) =>
    !report.incremental && report.build.fingerprint !== null ? [`package ${report.build.fingerprint}`] : [],
  );
  return [...own, ...bootloaders, ...recovery, ...shared, ...whole, ...opened];
}
