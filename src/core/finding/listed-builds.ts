import type { InstalledBuild } from '../fit/fit-package';
import { judgeRegion, labelInWords, ownRegion, regionsOfLabel } from '../fit/label-exceptions';
import { splitFingerprint } from '../formats/facts/parse-facts';
import { explainDifference } from '../text/align-strings';
import type { ListedSays } from '../words/listed';

/*
 * A maker's list of builds, held line by line against the build that is installed (docs/method.md, "Finding the
 * line").
 */

/** One line of such a list: a row of a table by its headings, or a line of text. */
export interface ListedLine {
  /** All of it, as a person reads it. */
  readonly label: string;
  /** Model, code name or variant that it says in a column of its own; null where it has none. */
  readonly variant: string | null;
  readonly sizeBytes: number | null;
  /** Lower-case hex. */
  readonly sha256: string | null;
  /** Beginnings of the serials that it is for; null where it says nothing of them, or means all. */
  readonly serials: readonly string[] | null;
  /** The file's name. */
  readonly file: string | null;
  /** The whole build, where the list names it, with its patch level and the day it came out. */
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
  readonly published: string | null;
}

export type ListedVerdict =
  'exact' | 'shut out' | 'look-alike' | 'newer' | 'older' | 'other variant' | "can't tell" | 'no build';

export interface JudgedLine {
  readonly line: ListedLine;
  readonly verdict: ListedVerdict;
  readonly says: ListedSays;
}

const HEADINGS = {
  variant: /^(variant|product|device|model|code ?name)$/i,
  size: /^(size|bytes|size ?\(?bytes\)?)$/i,
  sha256: /^(sha-?256|checksum|hash)$/i,
  serials: /^(serials?|for ?serials?|serial numbers?)$/i,
  file: /^(file|file ?name|archive)$/i,
  fingerprint: /^fingerprint$/i,
  patchLevel: /^(patch ?level|security ?(patch|update)?)$/i,
  published: /^(published|released|date|out)$/i,
} as const satisfies Readonly<Record<string, RegExp>>;
/** What is no part of what a person reads as the line. */
const NOT_READ = [
  HEADINGS.size,
  HEADINGS.sha256,
  HEADINGS.serials,
  HEADINGS.fingerprint,
  HEADINGS.patchLevel,
  HEADINGS.published,
];

/** A list of beginnings, parted by commas or spaces; a star behind one is nothing of it. */
function serialsOf(text: string | null): readonly string[] | null {
  const words = (text ?? '').split(/[\s,;]+/).map((word) => word.replace(/\*$/, ''));
  const named = words.filter((word) => word !== '' && word.toLowerCase() !== 'all');
  return named.length === 0 ? null : named;
}

/** A row of a table. @param row texts by heading */
export function lineOfRow(row: Readonly<Record<string, string>>): ListedLine {
  const column = (heading: RegExp) =>
    Object.entries(row)
      .find(([name]) => heading.test(name.trim()))?.[1]
      ?.trim() || null;
  const size = column(HEADINGS.size)?.replace(/[ ,_]/g, '') ?? '';
  const sha256 = column(HEADINGS.sha256)?.toLowerCase() ?? '';
  return {
    label: Object.entries(row)
      .filter(([name]) => !NOT_READ.some((heading) => heading.test(name.trim())))
      .map(([, text]) => text.trim())
      .filter((text) => text !== '')
      .join(' '),
    variant: column(HEADINGS.variant),
    sizeBytes: /^\d{1,15}$/.test(size) ? Number(size) : null,
    sha256: /^[0-9a-f]{64}$/.test(sha256) ? sha256 : null,
    serials: serialsOf(column(HEADINGS.serials)),
    file: column(HEADINGS.file),
    fingerprint: column(HEADINGS.fingerprint),
    patchLevel: column(HEADINGS.patchLevel),
    published: column(HEADINGS.published),
  };
}

/** A line of a page's text. */
export const lineOfText = (text: string): ListedLine => ({
  label: text.replace(HASH, ' ').trim(),
  variant: null,
  sizeBytes: null,
  sha256: HASH.exec(text)?.[0].toLowerCase() ?? null,
  serials: null,
  file: null,
  fingerprint: null,
  patchLevel: null,
  published: null,
});
const HASH = /(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])/i;

const WORD = /[A-Za-z0-9]+(?:[.-][A-Za-z0-9]+)*/g;
const FILE_ENDING = /\.(?:zip|tar|md5|img|bin|tgz|gz)$/i;

/** Words of a line that may be builds; a file's ending is none of it. */
function wordsIn(label: string): string[] {
  return [...label.matchAll(WORD)].flatMap(([word]) => {
    let bare = word;
    while (FILE_ENDING.test(bare)) bare = bare.replace(FILE_ENDING, '');
    // a name may hold variant and build with a dash between them
    return [bare, ...(bare.includes('-') ? bare.split('-') : [])];
  });
}

const shapeOf = (text: string) => text.replace(/[0-9]/g, '0').replace(/[A-Za-z]/g, 'A');
const MOST_SLIPS = 2;
const LEAST_CHARACTERS = 5;
/** A date within a build number: year, month and day. */
const DATE_DIGITS = 6;

interface Found {
  readonly verdict: 'exact' | 'look-alike' | 'newer' | 'older';
  readonly says: ListedSays;
}

/** A word held against a build number of the handset; null where it is no build of that kind. */
function heldAgainst(word: string, own: string): Found | null {
  if (word === own) return { verdict: 'exact', says: { code: 'same', found: word } };
  if (own.length < LEAST_CHARACTERS || !/\d/.test(own)) return null;
  const alike: Found = { verdict: 'look-alike', says: { code: 'looks-alike', ours: own, theirs: word } };
  if (shapeOf(word) === shapeOf(own)) {
    const order = orderByDate(word, own);
    if (order !== null) return { verdict: order, says: { code: order, theirs: word } };
  }
  if (Math.abs(word.length - own.length) > MOST_SLIPS + 2) return null;
  // with something behind it, it is another build of the same month
  if (word.startsWith(`${own}.`) || own.startsWith(`${word}.`)) return alike;
  const slips = explainDifference(own, word);
  return slips !== null && slips.length <= MOST_SLIPS && word.length > own.length / 2 ? alike : null;
}

/** By the first run of digits long enough for a date, where all letters before it are the same. */
function orderByDate(word: string, own: string): 'newer' | 'older' | null {
  const date = new RegExp(`^(.*?)(\\d{${DATE_DIGITS},})`);
  const [a, b] = [date.exec(word), date.exec(own)];
  if (!a || !b || a[1] !== b[1] || a[2] === b[2]) return null;
  return a[2]! > b[2]! ? 'newer' : 'older';
}

const RANK: Readonly<Record<Found['verdict'], number>> = { exact: 0, 'look-alike': 1, newer: 2, older: 3 };

function bestFound(label: string, builds: readonly string[]): Found | null {
  const found = wordsIn(label).flatMap((word) => builds.flatMap((own) => heldAgainst(word, own) ?? []));
  return found.sort((a, b) => RANK[a.verdict] - RANK[b.verdict])[0] ?? null;
}

/** Whether a line is for this serial; null where it names serials and this one's was never read. */
const forSerial = ({ serials }: ListedLine, serial: string | null): boolean | null =>
  serials === null
    ? true
    : serial === null
      ? null
      : serials.some((start) => serial.toUpperCase().startsWith(start.toUpperCase()));

/**
 * One line against the handset.
 * @param serial of the handset, which is never told; null where it was never read
 */
export function judgeLine(
  line: ListedLine,
  installed: InstalledBuild,
  serial: string | null = null,
): JudgedLine {
  const own = installed.fingerprint === null ? null : splitFingerprint(installed.fingerprint);
  const judged = (verdict: ListedVerdict, says: ListedSays): JudgedLine => ({ line, verdict, says });
  const found = bestFound(line.label, own ? [own.id, own.incremental] : []);
  if (found === null) return judged('no build', { code: 'names-no-build' });
  const names = own ? [own.product, own.device] : [];
  if (line.variant !== null && own && !sameVariant(line.variant, names))
    return judged('other variant', { code: 'other-variant', theirs: line.variant, ours: own.product });
  if (found.verdict !== 'exact') return judged(found.verdict, found.says);
  const bar = barredBy(line, installed, serial);
  return bar === null ? judged(found.verdict, found.says) : judged(bar.verdict, bar.says);
}

/** What shuts the handset out of the very line that names its build: its serials, or its label; null where nothing does. */
function barredBy(
  line: ListedLine,
  installed: InstalledBuild,
  serial: string | null,
): Pick<JudgedLine, 'verdict' | 'says'> | null {
  const ours = forSerial(line, serial);
  if (ours === false) return { verdict: 'shut out', says: { code: 'other-serials' } };
  if (ours === null) return { verdict: "can't tell", says: { code: 'serial-unknown' } };
  const product = installed.fingerprint === null ? null : splitFingerprint(installed.fingerprint)?.product;
  const regions = regionsOfLabel(line.label);
  const region = ownRegion(installed.region, product ?? null);
  const label = labelInWords(regions) ?? '';
  switch (judgeRegion(regions, region)) {
    case 'shut out':
      return { verdict: 'shut out', says: { code: 'shut-out', label, region: region.value! } };
    case 'region not known':
      return { verdict: "can't tell", says: { code: 'region-unknown', label } };
    default:
      return null;
  }
}

const sameVariant = (said: string, names: readonly string[]) =>
  names.some((name) => name.toLowerCase() === said.toLowerCase());

export interface JudgedList {
  /** In the order of the list. */
  readonly lines: readonly JudgedLine[];
  /** Index of the one line that is the installed build; null where there is none, or another may be it. */
  readonly exact: number | null;
}

/** @param serial as for a line */
export function judgeList(
  lines: readonly ListedLine[],
  installed: InstalledBuild,
  serial: string | null = null,
): JudgedList {
  const judged = lines.map((line) => judgeLine(line, installed, serial));
  const exact = judged.flatMap(({ verdict }, i) => (verdict === 'exact' ? [i] : []));
  const open = judged.some(({ verdict }) => verdict === "can't tell");
  return { lines: judged, exact: exact.length === 1 && !open ? exact[0]! : null };
}
