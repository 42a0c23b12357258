import type { BackupPart } from '../words/backups';
import { judgeFeasibility } from '../feasibility/feasibility';
import type { Feasibility, FeasibilityInput } from '../feasibility/feasibility';
import { floorsOf } from '../feasibility/floors';
import type { Floor } from '../feasibility/floors';
import { willDataOpen } from '../feasibility/patch-levels';
import { judgeReadiness } from '../feasibility/readiness';
import type { Readiness } from '../feasibility/readiness';
import type { RamdiskWitness, RecoveryHome, RootPartition } from '../fit/root-partition';
import { recoveryHomeOf, rootPartitionOf } from '../fit/root-partition';
import type { WriteSlots } from '../fit/write-slots';
import { writeSlotsOf } from '../fit/write-slots';
import { unslotted } from '../text/partition-names';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Slot } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { WayBackInput } from '../vault/way-back';
import { stockOf } from '../vault/way-back';
import type { Bench, KeptImage, KeptKit, KnownBuild, OpenedPackage, Subject } from './bench';
import { knownBuilds } from './known-builds';

/* What all that is known says of one handset. Pure: everything is read before and handed in. */

const DAY_MS = 86_400_000;
/** A backup older than this does not count before something is wiped. */
export const BACKUP_MAX_DAYS = 14;

const namesOf = (names: readonly string[]) => [...new Set(names.map(unslotted))];

/** Stock images of the installed build in the vault, as witnesses of where ramdisks are. */
function witnesses(images: readonly KeptImage[], fingerprint: string | null): RamdiskWitness[] {
  return images
    .filter((image) => image.role === 'stock' && fingerprint !== null && image.fingerprint === fingerprint)
    .map((image) => ({ partition: image.partition, hasRamdisk: image.report.ramdisk !== null }));
}

export function rootOf(
  { facts }: Pick<Subject, 'facts'>,
  { images, packages }: Pick<Bench, 'images' | 'packages'>,
): RootPartition {
  const { fingerprint, firstApiLevel, partitions } = facts.typed;
  const own = packages.filter(
    ({ report }) => !report.incremental && fingerprint !== null && report.build.fingerprint === fingerprint,
  );
  const packaged = own.flatMap(({ report }) =>
    report.images.map(({ partition }) => ({ partition, hasRamdisk: null })),
  );
  return rootPartitionOf({
    partitions: namesOf(Object.keys(partitions)),
    firstApiLevel,
    images: witnesses(images, fingerprint),
    packaged,
  });
}

export function recoveryOf(
  { facts }: Pick<Subject, 'facts'>,
  { images, packages }: Bench,
  root: RootPartition,
): RecoveryHome {
  const { fingerprint, partitions, slotCount } = facts.typed;
  const own = packages.filter(
    ({ report }) => fingerprint !== null && report.build.fingerprint === fingerprint,
  );
  const vendor = images.find(
    (image) =>
      image.partition === 'vendor_boot' && image.role === 'stock' && image.fingerprint === fingerprint,
  );
  return recoveryHomeOf({
    partitions: namesOf(Object.keys(partitions)),
    packaged: own.flatMap(({ report }) => report.images.map(({ partition }) => partition)),
    images: witnesses(images, fingerprint),
    vendorRamdisks: vendor ? (vendor.report.ramdisks ?? []).map((one) => one.type) : [],
    slotCount,
    rootPartition: root.partition,
  });
}

export function slotsToWrite(
  { facts }: Pick<Subject, 'facts'>,
  { packages }: Bench,
  root: RootPartition,
): WriteSlots {
  const { slotCount, currentSlot, fingerprint } = facts.typed;
  const own = packages.find(({ report }) => fingerprint !== null && report.build.fingerprint === fingerprint);
  const listed = own?.report.images.find((image) => image.partition === root.partition);
  return writeSlotsOf({
    slotCount,
    activeSlot: currentSlot,
    hasSlot: null,
    packageSlots: listed?.slots ?? null,
  });
}

/**
 * Whether root's image of a build goes to both slots: the package's own list writes both, and the other slot
 * is known to hold that build too.
 * @param slot the one that is written in any case
 */
export function rootToBothSlots(
  { facts, cells }: Pick<Subject, 'facts' | 'cells'>,
  { packages, images }: Pick<Bench, 'packages' | 'images'>,
  { partition }: Pick<RootPartition, 'partition'>,
  build: string,
  slot: Slot,
): boolean {
  if (facts.typed.slotCount !== 2) return false;
  const listed = packages.some(
    ({ report }) =>
      report.build.fingerprint === build &&
      report.images.some((image) => image.partition === partition && image.slots === 'both'),
  );
  const other = cells.find((cell) => cell.partition === partition && cell.slot === otherSlot(slot));
  return (
    listed && images.some(({ sha256, fingerprint }) => sha256 === other?.sha256 && fingerprint === build)
  );
}

/** Whether the stock image of the installed build is in the vault, and whole as last looked at. */
function isStockKept({ facts }: Subject, { images, damaged }: Bench, { partition }: RootPartition): boolean {
  const stock = partition === null ? null : stockOf(images, facts.typed.fingerprint, partition);
  return stock !== null && !damaged.has(stock.sha256);
}

export function wayBackInput(
  { facts, cells }: Subject,
  { images, damaged }: Bench,
  root: RootPartition,
): WayBackInput {
  const { fingerprint, unlocked, currentSlot, slotCount } = facts.typed;
  return {
    fingerprint,
    unlocked,
    rootPartition: root.partition,
    activeSlot: currentSlot,
    slotCount,
    cells,
    images,
    damaged,
    snapshot: facts.value('snapshot'),
  };
}

export const kitItem = ({ kitId, version }: Pick<KeptKit, 'kitId' | 'version'>) => `${kitId} ${version}`;

/**
 * Whether a kit patches images of this partition on a platform of this level; what is not known shuts nothing
 * out.
 */
export const kitFits = (
  { supports: { sdk: levels, partitions } }: Pick<KeptKit, 'supports'>,
  partition: string | null,
  sdk: number | null,
) =>
  (levels === null || sdk === null || (sdk >= levels[0] && sdk <= levels[1])) &&
  (partition === null || partitions === null || partitions.includes(partition));

function kitsFor({ facts }: Subject, { kits }: Bench, partition: string | null) {
  const { sdk } = facts.typed;
  if (sdk === null) return null;
  return kits
    .filter((kit) => kitFits(kit, partition, sdk))
    .map(({ name, version, channel }) => ({ name: `${name} ${version}`, channel }));
}

/** The kit that patches an image of this partition on a platform of this level. */
export const kitFor = ({ kits }: Pick<Bench, 'kits'>, partition: string, sdk: number | null) =>
  kits.find((kit) => kitFits(kit, partition, sdk)) ?? null;

/** The kit whose root runs on it, as far as its slot is known; null where none is known. */
export function kitOnIt(
  { facts, cells }: Pick<Subject, 'facts' | 'cells'>,
  { images, kits }: Pick<Bench, 'images' | 'kits'>,
  partition: string | null,
) {
  const { currentSlot } = facts.typed;
  const lies = cells.find(
    (cell) => cell.partition === partition && (cell.slot === currentSlot || cell.slot === '-'),
  );
  const by = images.find(({ sha256 }) => sha256 === lies?.sha256)?.kit ?? null;
  return kits.find((kit) => kitItem(kit) === by) ?? null;
}

export function recoveriesFor({ facts }: Subject, { recoveries }: Bench) {
  const { device, sdk } = facts.typed;
  return recoveries.filter(
    (row) =>
      device !== null &&
      row.devices.includes(device) &&
      (sdk === null || ((row.sdkFrom ?? sdk) <= sdk && sdk <= (row.sdkTo ?? sdk))),
  );
}

/** Those of them whose image is in the vault: only they can be written. */
export function recoveriesShelved(subject: Subject, bench: Bench) {
  return recoveriesFor(subject, bench).filter(({ sha256 }) =>
    bench.images.some((image) => image.sha256 === sha256),
  );
}

/** Floors against the image that would be written: the stock image of the installed build. */
export function floorsFor({ facts }: Subject, { images }: Bench, root: RootPartition): Floor[] {
  const { fingerprint, unlocked, patchLevel } = facts.typed;
  const number = (key: string) => (facts.value(key) === null ? null : Number(facts.value(key)));
  const stock =
    root.partition === null
      ? null
      : images.find(
          (image) =>
            image.role === 'stock' && image.fingerprint === fingerprint && image.partition === root.partition,
        );
  return floorsOf({
    fuse: number('antiRollback'),
    wantedFuse: null,
    storedIndex: number('storedIndex'),
    wantedIndex: stock ? (stock.report.avb?.rollbackIndex ?? null) : null,
    makerFloor: facts.value('makerFloor'),
    wantedPatchLevel: patchLevel,
    locked: unlocked === null ? null : !unlocked,
    writesBootloader: false,
  });
}

export function dataFor({ facts }: Subject, { images }: Bench, root: RootPartition) {
  const { fingerprint, patchLevel } = facts.typed;
  const stock = root.partition === null ? null : stockOf(images, fingerprint, root.partition);
  const image = images.find((one) => one.sha256 === stock?.sha256)?.patchLevel ?? patchLevel;
  const encrypted = facts.value('encrypted');
  const levels = { image, system: patchLevel, data: facts.dataPatchLevel };
  return {
    ...willDataOpen({ ...levels, encrypted: encrypted === null ? null : encrypted === 'true' }),
    ...levels,
  };
}

/** A full package of a build that was opened here. */
export const fullPackageOf = (
  { packages }: Pick<Bench, 'packages'>,
  fingerprint: string,
): OpenedPackage | undefined =>
  packages.find(({ report }) => !report.incremental && report.build.fingerprint === fingerprint);

export interface Notes {
  readonly clocks: readonly {
    readonly kind: 'unlock switch' | 'mailed code' | 'return window' | 'tester enrolment';
    readonly endsAt: number;
    readonly note: string;
  }[];
  readonly dependencies: readonly {
    readonly name: string;
    readonly effect: 'stops' | 'keeps working' | 'unknown';
    readonly needed: boolean;
  }[];
  readonly lastBackupAt: number | null;
  /** What of a whole set the last one does not hold; null where nobody was asked. */
  readonly backupLacks: readonly BackupPart[] | null;
}

/** What the maker's page says of the installed build: whether it offers it, and which whole builds it offers. */
function offersOf(subject: Subject, bench: Bench): Pick<FeasibilityInput, 'offered' | 'instead'> {
  const { fingerprint } = subject.facts.typed;
  const own =
    bench.offered === null ? [] : knownBuilds(subject, bench).filter((one) => bench.offered!.has(one));
  const offered = own.length === 0 || fingerprint === null ? null : own.includes(fingerprint);
  return { offered, instead: own.map((one) => splitFingerprint(one)?.id ?? one) };
}

const SWITCHES = ['on', 'off', 'greyed', 'hidden', 'absent'] as const;

export function feasibilityOf(
  subject: Subject,
  bench: Bench,
  root: RootPartition,
  notes: Notes,
  now: number,
): Feasibility {
  const { fingerprint, unlocked } = subject.facts.typed;
  const allowed = subject.facts.value('unlockAllowed');
  return judgeFeasibility({
    now,
    unlocked,
    unlockSwitch: SWITCHES.find((one) => one === allowed) ?? null,
    clocks: notes.clocks,
    buildKnown: fingerprint !== null,
    packageAtHand: bench.packages.some(
      ({ report }) => !report.incremental && fingerprint !== null && report.build.fingerprint === fingerprint,
    ),
    stockKept: isStockKept(subject, bench, root),
    ...offersOf(subject, bench),
    root,
    kits: kitsFor(subject, bench, root.partition),
    recoveryWanted: bench.recoveries.length > 0,
    recoveries: recoveriesFor(subject, bench),
    floors: floorsFor(subject, bench, root),
    data: dataFor(subject, bench, root),
    dependencies: notes.dependencies,
    backupDays: notes.lastBackupAt === null ? null : Math.floor((now - notes.lastBackupAt) / DAY_MS),
    backupMaxDays: BACKUP_MAX_DAYS,
    backupLacks: notes.backupLacks,
  });
}

/** The newest build known for a handset that is not the installed one; null where it has the newest. */
export function nextBuild(
  { facts }: Pick<Subject, 'facts'>,
  { builds }: Pick<Bench, 'builds'>,
): KnownBuild | null {
  const product = facts.typed.fingerprint ? splitFingerprint(facts.typed.fingerprint)?.product : null;
  const newest = builds.filter((build) => build.product === product).at(-1) ?? null;
  return newest && newest.fingerprint !== facts.typed.fingerprint ? newest : null;
}

/**
 * The platform level of a build that is not installed: the installed one's, where the release is the same;
 * else not known.
 */
function sdkOf(build: KnownBuild, { facts }: Subject): number | null {
  const { release, sdk } = facts.typed;
  const wanted = splitFingerprint(build.fingerprint)?.release;
  return wanted === release ? sdk : null;
}

export function readinessOf(subject: Subject, bench: Bench, root: RootPartition): Readiness {
  const next = nextBuild(subject, bench);
  const rooted = subject.root === 'proven' || subject.root === 'unproven' || subject.root === 'lost';
  const fitting = recoveriesFor(subject, bench)[0];
  const sdk = next && sdkOf(next, subject);
  return judgeReadiness({
    next: next && { buildId: next.buildId, fingerprint: next.fingerprint, sdk },
    packageOpened:
      next !== null && bench.packages.some(({ report }) => report.build.fingerprint === next.fingerprint),
    rooted,
    kits: bench.kits
      .filter((kit) => root.partition === null || kit.supports.partitions?.includes(root.partition) !== false)
      .map((kit) => ({
        name: `${kit.name} ${kit.version}`,
        channel: kit.channel,
        sdk: kit.supports.sdk,
        trials: bench.trials.filter((trial) => trial.shelf === 'kit' && trial.item === kitItem(kit)),
      })),
    recovery:
      fitting && next
        ? {
            name: `${fitting.name} ${fitting.version}`,
            supports: sdk === null ? null : (fitting.sdkFrom ?? sdk) <= sdk && sdk <= (fitting.sdkTo ?? sdk),
          }
        : null,
    stockKept: isStockKept(subject, bench, root),
    snapshot: subject.facts.value('snapshot'),
  });
}
