import type { Kit } from '../kits/kit';
import type { ChangedEntry, ImageComparison } from '../patch/compare-images';
import { compareReports } from '../patch/compare-images';
import type { JudgedPoint, Unexpected } from '../words/judged';
import { mayBeOfOne } from '../packages/bare-image';
import type { JudgedSide } from './judged-side';
import { buildNamed, fingerprintsOf, ramdiskProperties } from './judged-side';
import type { PatchTraces } from './traces';
import { tracesOf } from './traces';

/*
 * An image patched elsewhere, held against the stock image that it may come from (docs/method.md, "Images
 * patched elsewhere"). What the image does not say is not known, and never holds.
 */

export type Belongs = 'yes' | 'no' | "can't tell";

export interface JudgedLine {
  readonly point: JudgedPoint;
  /** Null where the image does not say it. */
  readonly ok: boolean | null;
}

export interface JudgedPatch {
  readonly belongs: Belongs;
  /** How often it was patched by what it shows; 0 for stock, and where it shows nothing. */
  readonly times: number;
  /** Who patched it, as their notes say. */
  readonly by: readonly string[];
  /** The build that each names; null where it names none. */
  readonly build: { readonly stock: string | null; readonly patched: string | null };
  readonly lines: readonly JudgedLine[];
  /** Names of ramdisk entries; `moved` those that keep what another was. */
  readonly changes: Readonly<Record<'added' | 'removed' | 'changed' | 'moved', readonly string[]>>;
  readonly unexpected: readonly Unexpected[];
  /** Byte for byte the stock image. */
  readonly same: boolean;
}

/** Header fields that say which build it is. */
const BUILD_FIELDS = new Set(['patch level', 'release']);
/** A patch may change them: it grows, and another packing serves as well where the handset takes it. */
const FREE_FIELDS = new Set(['size', 'kind', 'ramdisk packed as']);
/** Never said: the partition is looked at of itself, and an image may be cut to what it fills. */
const GROWS = new Set(['size', 'kind']);
/** Below this share of surviving entries the ramdisk is not this stock's. */
const SURVIVING_SHARE = 0.5;
/** Properties of verified-boot data and of the ramdisk that only one build has. */
const TELLS_THE_BUILD = /\.(?:fingerprint|incremental)$/;

const line = (ok: boolean | null, point: JudgedPoint): JudgedLine => ({ point, ok });
/** Whether two values are the same; null where the image does not say. */
const same = (stock: string | null, patched: string | null): boolean | null =>
  patched === null || stock === null ? null : stock === patched;

/**
 * @param kit the kit that the image's note names, where it is at hand: what its steps change is expected
 */
export function judgePatched(stock: JudgedSide, patched: JudgedSide, kit: Kit | null = null): JudgedPatch {
  const comparison = compareReports(stock, patched);
  const properties = propertyLines(stock, patched);
  const sameBuild = properties.some(tellsTheBuild);
  const traces = tracesOf(stock, patched, sameBuild);
  const named = traces.notes.some(({ from }) => from === stock.report.sha256);
  const entries = judgedEntries(comparison, traces);
  const expected = expectedOf(kit, traces);
  const lines = [
    line(mayBeOfOne(stock.identity, patched.identity), {
      code: 'partition',
      stock: stock.identity.partition,
      patched: patched.identity.partition,
    }),
    ...(stock.report.avb?.digestValid === false ? [line(false, { code: 'stock-whole' })] : []),
    ...sectionLines(comparison),
    ...headerLines(comparison, expected),
    ...properties,
    ...entries.lines,
    noteLine(traces, named, comparison.same),
    ...(traces.times > 1 ? [line(false, { code: 'times', times: traces.times })] : []),
  ];
  return {
    belongs: belongsOf(lines, {
      same: comparison.same,
      named,
      sameBuild,
      whole: entries.whole && sectionsSame(comparison),
    }),
    times: traces.times,
    by: [...new Set(traces.notes.flatMap(({ kit: name }) => name ?? []))],
    build: { stock: buildNamed(stock), patched: buildNamed(patched) },
    lines,
    changes: entries.changes,
    unexpected: unexpectedOf(comparison, entries.unkept, expected),
    same: comparison.same,
  };
}

/** A line that says that both are of one build, and no other. */
const tellsTheBuild = ({ ok, point }: JudgedLine) =>
  ok === true && point.code === 'property' && TELLS_THE_BUILD.test(point.field);

interface Ties {
  readonly same: boolean;
  /** Its note names the stock image's hash. */
  readonly named: boolean;
  readonly sameBuild: boolean;
  /** All but what was added, or replaced with a copy kept, is the stock's. */
  readonly whole: boolean;
}

/** It belongs where something ties it to this stock image and nothing speaks against it. */
function belongsOf(lines: readonly JudgedLine[], { same: equal, named, sameBuild, whole }: Ties): Belongs {
  const against = lines.some(({ ok, point }) => ok === false && speaksAgainst(point, named));
  if (against) return 'no';
  const doubtful = lines.some(
    ({ ok, point }) => ok === false && (point.code === 'stock-whole' || isKernel(point)),
  );
  return !doubtful && (equal || named || sameBuild || whole) ? 'yes' : "can't tell";
}

const isKernel = (point: JudgedPoint) => point.code === 'section' && point.name === 'kernel';

/** What no patch of this stock image does. */
function speaksAgainst(point: JudgedPoint, named: boolean): boolean {
  switch (point.code) {
    case 'partition':
    case 'property':
    case 'surviving':
    case 'note':
      return true;
    case 'header':
      return BUILD_FIELDS.has(point.field);
    case 'section':
      return isKernel(point) && !named;
    default:
      return false;
  }
}

const isOther = ({ name }: { readonly name: string }) => name !== 'header' && name !== 'ramdisk';
const sectionsSame = ({ sections }: ImageComparison) =>
  sections.filter(isOther).every(({ verdict }) => verdict === 'same');

const sectionLines = ({ sections }: ImageComparison): JudgedLine[] =>
  sections
    .filter(isOther)
    .map(({ name, verdict }) => line(verdict === 'same', { code: 'section', name, became: verdict }));

/** What tells the build is always said, all else where it differs. */
function headerLines({ header }: ImageComparison, { commandLine }: Expected): JudgedLine[] {
  const okOf = (field: string, a: string | null, b: string | null) => {
    if (a === b) return true;
    if (BUILD_FIELDS.has(field)) return same(a, b);
    return FREE_FIELDS.has(field) ? null : false;
  };
  return header
    .filter(({ field, same: equal }) => equal || !commandLine || field !== 'command line')
    .filter(({ field, a, same: equal }) =>
      equal ? BUILD_FIELDS.has(field) && a !== null : !GROWS.has(field),
    )
    .map(({ field, a, b }) => line(okOf(field, a, b), { code: 'header', field, stock: a, patched: b }));
}

/** Properties of the verified-boot data and of the ramdisk; those that only the image has too. */
function propertyLines(stock: JudgedSide, patched: JudgedSide): JudgedLine[] {
  const [own, other] = [propertiesOf(stock), propertiesOf(patched)];
  const keyed = [...new Set([...Object.keys(own), ...Object.keys(other)])].flatMap((field) => {
    const [a, b] = [own[field] ?? null, other[field] ?? null];
    return a === null ? [] : [line(same(a, b), { code: 'property', field, stock: a, patched: b })];
  });
  // one says it in its verified-boot data, the other in its ramdisk
  const [first, all] = [fingerprintsOf(stock)[0] ?? null, fingerprintsOf(patched)];
  const crossed = all
    .filter((one) => first !== null && one !== first)
    .filter((one) => !keyed.some(({ point }) => point.code === 'property' && point.patched === one))
    .map((one) => line(false, { code: 'property', field: 'fingerprint', stock: first, patched: one }));
  const agrees =
    first !== null && all.includes(first) && !keyed.some(tellsTheBuild)
      ? [line(true, { code: 'property', field: 'build.fingerprint', stock: first, patched: first })]
      : [];
  return [...keyed, ...crossed, ...agrees];
}

function propertiesOf(side: JudgedSide): Readonly<Record<string, string>> {
  const { avb } = side.report;
  const verified = Object.entries(avb?.properties ?? {}).filter(([key]) =>
    key.startsWith('com.android.build.'),
  );
  return {
    ...Object.fromEntries(verified),
    ...(avb ? { 'rollback index': String(avb.rollbackIndex) } : {}),
    ...ramdiskProperties(side),
  };
}

interface JudgedEntries {
  readonly lines: readonly JudgedLine[];
  readonly changes: JudgedPatch['changes'];
  /** Changed ones of which no copy of the stock's is kept. */
  readonly unkept: readonly ChangedEntry[];
  readonly whole: boolean;
}

/** When an entry was written is no change of it: packing a ramdisk anew may set all of them. */
const meant = ({ what }: ChangedEntry) => what.some((one) => one !== 'time');

function judgedEntries({ entries }: ImageComparison, { kept }: PatchTraces): JudgedEntries {
  const changes = { added: [], removed: [], changed: [], moved: [] };
  if (!entries) return { lines: [], changes, unkept: [], whole: false };
  const changed = entries.changed.filter(meant);
  const arrived = [...entries.added.map(({ name }) => name), ...entries.moved.map(({ to }) => to)];
  const copies = new Set(kept);
  const keeps = (sha256: string) =>
    entries.moved.some((one) => one.sha256 === sha256) ||
    entries.added.some((one) => one.sha256 === sha256 && one.size > 0);
  const left = [
    ...entries.removed.map(({ name }) => name),
    ...entries.moved
      .filter(({ from }) => !entries.changed.some(({ name }) => name === from))
      .map(({ from }) => from),
  ];
  const lost = entries.removed.filter(({ sha256 }) => !keeps(sha256)).map(({ name }) => name);
  const unkept = changed.filter(
    ({ a, what }) => !(what.includes('content') && a.size > 0 && keeps(a.sha256)),
  );
  const before = entries.same + entries.changed.length + left.length;
  const survive = before - changed.length - left.length + entries.moved.length;
  return {
    lines: [
      line(before === 0 || survive / before >= SURVIVING_SHARE, {
        code: 'surviving',
        kept: survive,
        of: before,
      }),
      ...(lost.length > 0 ? [line(null, { code: 'gone', names: lost })] : []),
    ],
    changes: {
      added: arrived.filter((name) => !copies.has(name)),
      removed: left,
      changed: changed.map(({ name }) => name),
      moved: arrived.filter((name) => copies.has(name)),
    },
    unkept,
    whole: entries.same > 0 && unkept.length === 0 && lost.length === 0,
  };
}

function noteLine({ notes }: PatchTraces, named: boolean, equal: boolean): JudgedLine {
  const point: JudgedPoint = {
    code: 'note',
    kits: notes.flatMap(({ kit }) => kit ?? []),
    names: notes.map(({ from }) => from),
  };
  // a short hash is of another kind: it can't be held against this one
  const comparable = notes.some(({ from }) => from.length === 64);
  return line(equal || named ? true : comparable ? false : null, point);
}

interface Expected {
  readonly paths: ReadonlySet<string>;
  readonly commandLine: boolean;
}

/** What the steps of the kit that its note names change. */
function expectedOf(kit: Kit | null, { notes }: PatchTraces): Expected {
  const its = kit !== null && notes.some((note) => note.kit === `${kit.id} ${kit.version}`);
  if (!its) return { paths: new Set(), commandLine: false };
  return {
    paths: new Set(kit.steps.flatMap((step) => ('path' in step ? [step.path] : []))),
    commandLine: kit.steps.some((step) => step.do === 'cmdline'),
  };
}

function unexpectedOf(
  { sections, header }: ImageComparison,
  unkept: readonly ChangedEntry[],
  { paths, commandLine }: Expected,
): Unexpected[] {
  return [
    ...sections
      .filter((one) => isOther(one) && one.verdict !== 'same')
      .map(({ name, verdict }): Unexpected => ({ code: 'section', name, became: verdict })),
    ...header
      .filter(({ field, same: equal }) => !equal && !FREE_FIELDS.has(field))
      .filter(({ field }) => !(commandLine && field === 'command line'))
      .map(({ field, a, b }): Unexpected => ({ code: 'field', field, stock: a, patched: b })),
    ...unkept
      .filter(({ name }) => !paths.has(name))
      .map(({ name, what }): Unexpected => ({ code: 'entry', name, what })),
  ];
}
