/* Regions and carriers that a label lets in or shuts out (docs/method.md, "Exceptions in labels"). */

export interface LabelRegions {
  /** Empty: for every region that is not shut out. Lower case. */
  readonly only: readonly string[];
  readonly except: readonly string[];
}

const WORD = String.raw`[A-Za-z][A-Za-z0-9-]{0,19}`;
const LIST = String.raw`(${WORD}(?:\s*(?:,|\/|\+|\band\b|\bor\b|&)\s*(?:and\s+|or\s+)?${WORD})*)`;
const EXCEPT = new RegExp(
  String.raw`\b(?:all\s+)?(?:but|except(?:\s+for)?|excl(?:uding|\.)?|not\s+for|without)\s+${LIST}`,
  'gi',
);
const ONLY = [
  new RegExp(String.raw`\bonly\s+(?:for\s+)?${LIST}`, 'gi'),
  new RegExp(String.raw`${LIST}\s+only\b`, 'gi'),
];
/** Words of a label that name no region. */
const NO_REGION = new Set([
  'all',
  'the',
  'for',
  'and',
  'or',
  'devices',
  'models',
  'variants',
  'regions',
  'carriers',
  'handsets',
  'update',
  'image',
  'only',
]);

const split = (list: string) =>
  list
    .toLowerCase()
    .split(/\s*(?:,|\/|\+|\band\b|\bor\b|&)\s*/)
    .map((word) => word.trim())
    // what has digits is a part of a build
    .filter((word) => word !== '' && !NO_REGION.has(word) && !/\d/.test(word));

/** What a label says, such as a file's name or the maker's line above a download. */
export function regionsOfLabel(label: string): LabelRegions {
  // a bracket ends what it holds
  const plain = label
    .replace(/_/g, ' ')
    .replace(/[()[\]]/g, ' ; ')
    .replace(/\.(zip|tar|img|md5)\b/gi, ' ');
  const except = [...plain.matchAll(EXCEPT)].flatMap((match) => split(match[1]!));
  const rest = plain.replace(EXCEPT, ' ');
  const only = ONLY.flatMap((pattern) => [...rest.matchAll(pattern)]).flatMap((match) => split(match[1]!));
  return { only: [...new Set(only)], except: [...new Set(except)] };
}

export type RegionVerdict = 'let in' | 'shut out' | 'not said' | 'region not known';

/** What is known of where a handset belongs: what a person typed, or only its product's ending. */
export interface OwnRegion {
  readonly value: string | null;
  readonly typed: boolean;
}
export const ownRegion = (typed: string | null | undefined, product: string | null): OwnRegion => ({
  value: typed ?? regionOfProduct(product),
  typed: (typed ?? null) !== null,
});

/** Longer words name carriers, and a product's ending says nothing of the carrier. */
const LONGEST_REGION = 3;
const isCarrier = (word: string) => word.length > LONGEST_REGION;

/** Whether a label lets a handset in. */
export function judgeRegion({ only, except }: LabelRegions, { value, typed }: OwnRegion): RegionVerdict {
  if (only.length === 0 && except.length === 0) return 'not said';
  if (value === null) return 'region not known';
  // of a name in several words a label is read up to its first
  const own = value.toLowerCase();
  const names = (words: readonly string[]) => words.includes(own) || words.includes(own.split(/\s+/)[0]!);
  if (names(except)) return 'shut out';
  const open = (words: readonly string[]) => !typed && words.some(isCarrier);
  if (only.length > 0 && !names(only)) return open(only) ? 'region not known' : 'shut out';
  return open(except) ? 'region not known' : 'let in';
}

export function labelInWords({ only, except }: LabelRegions): string | null {
  const parts = [
    only.length > 0 ? `only ${only.join(', ')}` : '',
    except.length > 0 ? `all but ${except.join(', ')}` : '',
  ];
  return parts.filter((part) => part !== '').join('; ') || null;
}

/** The region that a product's name ends in, such as `eu` in `petrel2_eu`. */
function regionOfProduct(product: string | null): string | null {
  return product === null ? null : (/[_-]([a-z]{2,8})$/i.exec(product)?.[1]?.toLowerCase() ?? null);
}
