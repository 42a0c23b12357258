import { splitFingerprint } from '../formats/facts/parse-facts';
import { differenceInWords, explainDifference } from '../text/align-strings';
import type { FitReason } from '../words/fit';
import { judgeRegion, labelInWords, ownRegion, regionsOfLabel } from './label-exceptions';

export type FactVerdict = 'same' | 'differs' | 'unknown' | 'not needed';
export type FitVerdict = 'exact' | 'newer' | 'older' | 'other variant' | 'other handset' | "can't tell";

/** Whether nothing of such a package may ever get near the handset. */
export const isForeign = (verdict: FitVerdict) => verdict === 'other variant' || verdict === 'other handset';

/** One fact on both sides, with where each comes from. */
export interface FactComparison {
  readonly fact: string;
  readonly package: string | null;
  readonly handset: string | null;
  readonly verdict: FactVerdict;
  /** In words, where a verdict alone says too little. */
  readonly note: string | null;
  /** Where the package's side was read; null where it says nothing. */
  readonly packageFrom: string | null;
  /** Who said the handset's side, and how. */
  readonly handsetFrom: string | null;
}

export interface Fit {
  readonly verdict: FitVerdict;
  readonly reason: FitReason;
  readonly facts: readonly FactComparison[];
  /** What is missing when the verdict is "can't tell". */
  readonly missing: readonly string[];
}

/** What a package or an image says of its build. */
export interface BuildClaim {
  readonly fingerprint: string | null;
  readonly incrementalVersion: string | null;
  readonly patchLevel: string | null;
  readonly devices: readonly string[];
  readonly requiredBootloader?: readonly string[];
  readonly requiredBaseband?: readonly string[];
  /** Incremental packages: the build they start from. */
  readonly sourceFingerprint?: string | null;
  /** Names of the partitions it holds images of. */
  readonly partitions?: readonly string[];
  /** A name or line of text that may name regions. */
  readonly label?: string | null;
  /** Where all this was read, such as `its metadata`. */
  readonly from?: string;
}

/** What is known of the handset's installed build. */
export interface InstalledBuild {
  readonly fingerprint: string | null;
  readonly device: string | null;
  readonly patchLevel: string | null;
  readonly bootloader?: string | null;
  readonly baseband?: string | null;
  readonly firstApiLevel?: number | null;
  /** Typed; else the product's ending is taken. */
  readonly region?: string | null;
  /** Who said what, by the keys above. */
  readonly sources?: Readonly<Partial<Record<string, string>>>;
}

const LAUNCHED_WITH_INIT_BOOT = 33;

interface Side {
  readonly value: string | null;
  readonly from: string | null;
}

function compare(fact: string, a: Side, b: Side, note: string | null = null): FactComparison {
  const verdict = a.value === null || b.value === null ? 'unknown' : a.value === b.value ? 'same' : 'differs';
  return {
    fact,
    package: a.value,
    handset: b.value,
    verdict,
    note,
    packageFrom: a.from,
    handsetFrom: b.from,
  };
}

const slips = (wanted: string | null, got: string | null) =>
  wanted === null || got === null ? null : differenceInWords(wanted, got);

/**
 * Where two patch levels `yyyy-mm` or `yyyy-mm-dd` stand to each other, in words; null where they say the
 * same or nothing.
 */
function patchNote(a: string | null, b: string | null): string | null {
  if (a === null || b === null || a === b) return null;
  const months = (text: string) => Number(text.slice(0, 4)) * 12 + Number(text.slice(5, 7));
  const apart = months(a) - months(b);
  if (apart === 0) return 'the same month';
  return `${Math.abs(apart)} month${Math.abs(apart) === 1 ? '' : 's'} ${apart > 0 ? 'newer' : 'older'}`;
}

/** A list of which one has to be installed; an empty one asks for nothing. */
function required(fact: string, wanted: readonly string[], from: string, own: Side): FactComparison {
  const value = wanted.length === 0 ? null : wanted.join(' or ');
  const base = compare(fact, { value, from: value === null ? null : from }, own);
  if (value === null) return { ...base, verdict: 'not needed' };
  if (own.value === null) return base;
  return wanted.includes(own.value)
    ? { ...base, verdict: 'same' }
    : {
        ...base,
        verdict: 'differs',
        note: slips(wanted[0]!, own.value) ?? 'it has to be brought to this version first',
      };
}

function launchClass(
  partitions: readonly string[],
  from: string,
  level: number | null,
  handsetFrom: string | null,
): FactComparison {
  const holds = partitions.includes('init_boot')
    ? 'with init_boot'
    : partitions.includes('boot')
      ? 'without init_boot'
      : null;
  const own =
    level === null ? null : level >= LAUNCHED_WITH_INIT_BOOT ? 'with init_boot' : 'without init_boot';
  const base = compare(
    'Launch class',
    { value: holds, from: holds && from },
    { value: own, from: own && handsetFrom },
  );
  // a package may leave out what it does not change
  return holds !== 'with init_boot'
    ? { ...base, verdict: holds === own && own !== null ? 'same' : 'not needed' }
    : base;
}

function regionFact(label: string | null, product: string | null, installed: InstalledBuild): FactComparison {
  const regions = regionsOfLabel(label ?? '');
  const region = ownRegion(installed.region, product);
  const own = region.value;
  const verdict = judgeRegion(regions, region);
  const said = labelInWords(regions);
  return {
    ...compare(
      'Region',
      { value: said, from: said && 'its label' },
      {
        value: own,
        from: installed.region ? (installed.sources?.region ?? null) : own && 'the product’s ending',
      },
    ),
    verdict:
      verdict === 'not said'
        ? 'not needed'
        : verdict === 'region not known'
          ? 'unknown'
          : verdict === 'let in'
            ? 'same'
            : 'differs',
    note: verdict === 'shut out' ? 'its label shuts this handset out' : null,
  };
}

type Parts = NonNullable<ReturnType<typeof splitFingerprint>>;

/** Both sides, taken apart. */
interface Sides {
  readonly claim: BuildClaim;
  readonly installed: InstalledBuild;
  /** Parts of the two fingerprints; null where one is not known. */
  readonly theirs: Parts | null;
  readonly ours: Parts | null;
  /** Code names that the package is for, joined. */
  readonly device: string | null;
}

function sidesOf(claim: BuildClaim, installed: InstalledBuild): Sides {
  const split = (fingerprint: string | null) => (fingerprint ? splitFingerprint(fingerprint) : null);
  const theirs = split(claim.fingerprint);
  const device = claim.devices.length > 0 ? claim.devices.join(', ') : (theirs?.device ?? null);
  return { claim, installed, theirs, ours: split(installed.fingerprint), device };
}

/** The package's side of a fact, and the handset's with who said it. */
const readIn = ({ from }: BuildClaim, value: string | null): Side => ({
  value,
  from: value === null ? null : (from ?? 'its metadata'),
});
const ownSide = ({ sources }: InstalledBuild, key: string, value: string | null | undefined): Side => ({
  value: value ?? null,
  from: value === null || value === undefined ? null : (sources?.[key] ?? null),
});

type PlainFact = (
  fact: string,
  a: string | null,
  key: string,
  b: string | null | undefined,
) => FactComparison;
const plainFacts =
  ({ claim, installed }: Sides): PlainFact =>
  (fact, a, key, b) =>
    compare(fact, readIn(claim, a), ownSide(installed, key, b), slips(b ?? null, a));

function deviceFact({ claim, installed, device }: Sides, plain: PlainFact): FactComparison {
  const fact = plain('Code name', device, 'device', installed.device);
  const listed = installed.device !== null && claim.devices.includes(installed.device);
  return listed ? { ...fact, verdict: 'same', note: null } : fact;
}

function sourceFact({ claim, installed }: Sides, plain: PlainFact): FactComparison {
  const source = claim.sourceFingerprint ?? null;
  const fact = plain('Starts from build', source, 'fingerprint', installed.fingerprint);
  return source === null
    ? { ...fact, verdict: 'not needed', handset: null, handsetFrom: null, note: null }
    : fact;
}

/** Of a fingerprint that is not known. */
const NO_PARTS = { product: null, id: null, incremental: null };

/** Fact by fact on whole strings. */
function factsOf(sides: Sides): FactComparison[] {
  const { claim, installed } = sides;
  const [theirs, ours] = [sides.theirs ?? NO_PARTS, sides.ours ?? NO_PARTS];
  const plain = plainFacts(sides);
  const ofFingerprint = (fact: string, a: string | null, b: string | null) =>
    plain(fact, a, 'fingerprint', b);
  return [
    ofFingerprint('Fingerprint', claim.fingerprint, installed.fingerprint),
    deviceFact(sides, plain),
    ofFingerprint('Variant', theirs.product, ours.product),
    regionFact(claim.label ?? null, ours.product, installed),
    ofFingerprint('Build number', theirs.id, ours.id),
    ofFingerprint('Incremental', claim.incrementalVersion ?? theirs.incremental, ours.incremental),
    compare(
      'Patch level',
      readIn(claim, claim.patchLevel),
      ownSide(installed, 'patchLevel', installed.patchLevel),
      patchNote(claim.patchLevel, installed.patchLevel),
    ),
    ...requiredFacts(sides),
    launchClass(
      claim.partitions ?? [],
      'its list of images',
      installed.firstApiLevel ?? null,
      installed.sources?.firstApiLevel ?? null,
    ),
    sourceFact(sides, plain),
  ];
}

/** Versions that the package asks to be installed before it. */
function requiredFacts({ claim, installed }: Sides): FactComparison[] {
  const from = claim.from ?? 'its metadata';
  const { bootloader, baseband } = installed;
  return [
    required(
      'Bootloader',
      claim.requiredBootloader ?? [],
      from,
      ownSide(installed, 'bootloader', bootloader),
    ),
    required('Radio', claim.requiredBaseband ?? [], from, ownSide(installed, 'baseband', baseband)),
  ];
}

/**
 * Holds a package's build against the installed one, fact by fact on whole strings (docs/method.md, "Does
 * this package fit"). Only `exact` lets an image be written without the system that belongs to it.
 */
export function fitPackage(claim: BuildClaim, installed: InstalledBuild): Fit {
  const sides = sidesOf(claim, installed);
  const facts = factsOf(sides);
  const missing = facts
    .filter((fact) => fact.verdict === 'unknown')
    .map((fact) => `${fact.fact.toLowerCase()} of the ${fact.package === null ? 'package' : 'handset'}`);
  return { ...verdictOf(sides, facts, missing), facts, missing };
}

const verdict = (verdict: FitVerdict, reason: FitReason): Pick<Fit, 'verdict' | 'reason'> => ({
  verdict,
  reason,
});

function verdictOf(
  { claim, installed, theirs, ours, device }: Sides,
  facts: readonly FactComparison[],
  missing: readonly string[],
): Pick<Fit, 'verdict' | 'reason'> {
  const fact = (name: string) => facts.find((one) => one.fact === name)!;
  const otherDevice = (its: string, own: string | null) =>
    verdict('other handset', { code: 'other-device', theirs: its, ours: own });
  if (fact('Code name').verdict === 'differs') return otherDevice(device!, installed.device);
  const region = fact('Region');
  if (region.verdict === 'differs')
    return verdict('other variant', { code: 'shut-out', label: region.package, region: region.handset });
  if (!theirs || !ours) return verdict("can't tell", { code: 'too-little-known', missing });
  if (theirs.device !== ours.device) return otherDevice(theirs.device, ours.device);
  if (theirs.product !== ours.product || theirs.brand !== ours.brand)
    return verdict('other variant', { code: 'other-variant', theirs: theirs.product, ours: ours.product });
  if (claim.fingerprint === installed.fingerprint) return verdict('exact', { code: 'same' });
  return ageOf(theirs, claim.patchLevel, ours, installed.patchLevel);
}

/** Of two builds of one variant that are not the same. */
function ageOf(theirs: Parts, theirLevel: string | null, ours: Parts, ourLevel: string | null) {
  if (theirs.id !== ours.id && isSlip(ours.id, theirs.id))
    return verdict("can't tell", { code: 'looks-alike', ours: ours.id, theirs: theirs.id });
  const order = compareBuilds(theirs, theirLevel, ours, ourLevel);
  if (order === 0) return verdict("can't tell", { code: 'order-unknown' });
  return order > 0 ? verdict('newer', { code: 'newer' }) : verdict('older', { code: 'older' });
}

/** Nothing but look-alikes and case between two build numbers: no maker names two builds so. */
function isSlip(wanted: string, got: string): boolean {
  const differences = explainDifference(wanted, got);
  return differences !== null && differences.every(({ kind }) => kind === 'look-alike' || kind === 'case');
}

/** By the date in the build id, else by patch level, else by the incremental number. */
function compareBuilds(a: Parts, aPatch: string | null, b: Parts, bPatch: string | null): number {
  const date = (id: string) => /\.(\d{6})\./.exec(id)?.[1] ?? null;
  const pairs: [string | null, string | null][] = [
    [date(a.id), date(b.id)],
    [aPatch, bPatch],
  ];
  for (const [x, y] of pairs) if (x !== null && y !== null && x !== y) return x > y ? 1 : -1;
  const [m, n] = [Number(a.incremental), Number(b.incremental)];
  return Number.isSafeInteger(m) && Number.isSafeInteger(n) ? Math.sign(m - n) : 0;
}
