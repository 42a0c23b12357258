import { flagSaid } from '../facts/flag-said';
import { unslotted } from '../text/partition-names';
import { downgradeEdge } from '../feasibility/floors';
import type { RootPartition } from '../fit/root-partition';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { BuildFacts, HandsetProfile } from '../handset/state';
import { PLAIN_PROFILE } from '../handset/state';
import type { PlanContext } from '../planning/context';
import type { Assumption } from '../words/assumptions';
import type { Assumptions } from './assumed';
import type { Bench, KnownBuild, NotedEdge, Subject } from './bench';
import { recoveryOf } from './judgements';
import { knownBuilds } from './known-builds';
import { bootloaderLevel } from './whole-build';

/* A handset's own properties as the machine sees them, from all that is known. */
import { isKnown } from '../ways/speak';

/** What the log adds: the person's own times, and ways down that are known. */
export interface Learnt {
  readonly pace: PlanContext['pace'];
  readonly edges: readonly NotedEdge[];
}

/** What has to be known of a handset before anything can be planned. */
export interface Known {
  readonly subject: Subject;
  readonly bench: Bench;
  readonly learnt: Learnt;
  readonly fingerprint: string;
  readonly seat: RootPartition & { readonly partition: string };
  /** Platform level of the installed build; 0 where it is not known. */
  readonly platform: number;
}

const unlockPathOf = (told: string | null): HandsetProfile['unlockPath'] =>
  told === 'mailed code' || told === 'key chord' || told === 'none' ? told : 'command';

/** Where its recovery lives, as the machine's profile names it; null where that was never read. */
export function recoveryHomeOf({ subject, bench, seat }: Known): HandsetProfile['recoveryHome'] | null {
  const { home } = recoveryOf(subject, bench, seat);
  return home === 'own partition' ? 'recovery' : home;
}

/** As somebody said, or because it was read as one that lists partitions; null where nothing tells. */
function bootloaderWritesOf({ facts: { typed, value } }: Subject): boolean | null {
  const told = flagSaid(value('bootloaderWrites'));
  if (told !== null) return told;
  return typed.maxDownloadSize !== null || Object.keys(typed.partitions).length > 0 ? true : null;
}

/** The handset's own properties, apart from what state it is in. */
export function profileOf(known: Known, assumed: Assumptions): HandsetProfile {
  const { subject, bench, seat, platform } = known;
  const { facts, handset, cells } = subject;
  const { typed, value } = facts;
  const slotCount = assumed.take<1 | 2>(
    typed.slotCount === 1 || typed.slotCount === 2 ? typed.slotCount : null,
    2,
    { code: 'two-slots' },
  );
  const recoveryHome = assumed.take(recoveryHomeOf(known), slotCount === 1 ? 'recovery' : 'vendor_boot', {
    code: 'recovery-home',
  });
  const flag = (key: string) => flagSaid(value(key)) === true;
  const flagOrAssume = (key: string, assumption: Assumption) => {
    assumed.note(value(key) === null, assumption);
    return flag(key);
  };
  const { edges, alone } = waysDown(known);
  const loose = notedBuilds(known, 'loose-builds');
  const [fuse, lasts] = [subject.ways('fuse-reacts'), subject.ways('inside-lasts')];
  const partitions = [
    ...new Set([
      seat.partition,
      'boot',
      recoveryHome,
      ...alone,
      ...(loose.length > 0 ? ['bootloader'] : []),
      ...cells.map((cell) => cell.partition),
    ]),
  ];
  return {
    ...PLAIN_PROFILE,
    ...named(subject, platform),
    id: handset.id,
    rootPartition: seat.partition,
    partitionBytes: Object.fromEntries(partitions.map((name) => [name, Number.MAX_SAFE_INTEGER])),
    slotCount,
    recoveryHome,
    systemAsRoot: isSystemAsRoot(subject, slotCount),
    startsOnce: seat.partition === 'boot' && flagOrAssume('startsOnce', { code: 'starts-nothing' }),
    hasDownload: flagOrAssume('downloadMode', { code: 'no-download' }),
    bootloaderWrites: assumed.take(
      bootloaderWritesOf(subject) ?? (flag('downloadMode') ? null : true),
      false,
      { code: 'writes-nothing' },
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
    openBuilds: notedBuilds(known, 'open-builds'),
    looseBuilds: loose,
    ownWays: {
      ...(isKnown(fuse) ? { 'fuse-reacts': fuse.value } : {}),
      ...(isKnown(lasts) ? { 'inside-lasts': lasts.value } : {}),
    },
  };
}

/**
 * Whether the system brings the ramdisk of an ordinary start, and boot's is the recovery's: handsets with two slots
 * and no recovery partition that came out with release 8 or 9 (docs/method.md, "Which partition carries root").
 */
function isSystemAsRoot({ facts: { typed } }: Pick<Subject, 'facts'>, slotCount: number): boolean {
  const names = Object.keys(typed.partitions).map(unslotted);
  const [from, to] = SYSTEM_AS_ROOT;
  const level = typed.firstApiLevel;
  return (
    slotCount === 2 &&
    level !== null &&
    level >= from &&
    level <= to &&
    names.includes('boot') &&
    !names.includes('recovery') &&
    !names.includes('init_boot')
  );
}
/** Platform levels of releases 8 and 9. */
const SYSTEM_AS_ROOT = [26, 28] as const;

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

/** Builds that somebody noted in a list of its own ways; of all others nothing is known. */
export function notedBuilds(
  { subject, bench, fingerprint }: Pick<Known, 'subject' | 'bench' | 'fingerprint'>,
  id: 'open-builds' | 'loose-builds',
): readonly string[] {
  const way = subject.ways(id);
  const noted = isKnown(way) ? way.value : [];
  return [...new Set([fingerprint, ...knownBuilds(subject, bench)])].filter((build) =>
    noted.some((one) => one === build || one === splitFingerprint(build)?.id),
  );
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
