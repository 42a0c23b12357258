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
    .filter((word) => word !== '' && !NO_REGION.has(word));

/** What a label says, such as a file's name or the maker's line above a download. */
export function regionsOfLabel(label: string): LabelRegions {
  const plain = label.replace(/[_()[\]]/g, ' ').replace(/\.(zip|tar|img|md5)\b/gi, ' ');
  const except = [...plain.matchAll(EXCEPT)].flatMap((match) => split(match[1]!));
  const rest = plain.replace(EXCEPT, ' ');
  const only = ONLY.flatMap((pattern) => [...rest.matchAll(pattern)]).flatMap((match) => split(match[1]!));
  return { only: [...new Set(only)], except: [...new Set(except)] };
}

export type RegionVerdict = 'let in' | 'shut out' | 'not said' | 'region not known';

/** Whether a label lets a handset's region in. */
export function judgeRegion({ only, except }: LabelRegions, region: string | null): RegionVerdict {
  if (only.length === 0 && except.length === 0) return 'not said';
  if (region === null) return 'region not known';
  const own = region.toLowerCase();
  if (except.includes(own)) return 'shut out';
  return only.length === 0 || only.includes(own) ? 'let in' : 'shut out';
}

export function labelInWords({ only, except }: LabelRegions): string | null {
  const parts = [
    only.length > 0 ? `only ${only.join(', ')}` : '',
    except.length > 0 ? `all but ${except.join(', ')}` : '',
  ];
  return parts.filter((part) => part !== '').join('; ') || null;
}

/** The region that a product's name ends in, such as `eu` in `petrel2_eu`. */
export function regionOfProduct(product: string | null): string | null {
  return product === null ? null : (/[_-]([a-z]{2,8})$/i.exec(product)?.[1]?.toLowerCase() ?? null);
}
