import { splitFingerprint } from '../formats/facts/parse-facts';

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
}

export interface Fit {
  readonly verdict: FitVerdict;
  readonly reason: string;
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
}

/** What is known of the handset's installed build. */
export interface InstalledBuild {
  readonly fingerprint: string | null;
  readonly device: string | null;
  readonly patchLevel: string | null;
}

function compare(fact: string, a: string | null, b: string | null, note: string | null = null): FactComparison {
  return { fact, package: a, handset: b, verdict: a === null || b === null ? 'unknown' : a === b ? 'same' : 'differs', note };
}

/** Where two patch levels `yyyy-mm` or `yyyy-mm-dd` stand to each other, in words; null where they say the same or nothing. */
function patchNote(a: string | null, b: string | null): string | null {
  if (a === null || b === null || a === b) return null;
  const months = (text: string) => Number(text.slice(0, 4)) * 12 + Number(text.slice(5, 7));
  const apart = months(a) - months(b);
  if (apart === 0) return 'the same month';
  return `${Math.abs(apart)} month${Math.abs(apart) === 1 ? '' : 's'} ${apart > 0 ? 'newer' : 'older'}`;
}

/**
 * Holds a package's build against the installed one, fact by fact on whole strings (docs/method.md, "Does this package fit"). Only `exact`
 * lets an image be written without the system that belongs to it.
 */
export function fitPackage(claim: BuildClaim, installed: InstalledBuild): Fit {
  const theirs = claim.fingerprint ? splitFingerprint(claim.fingerprint) : null;
  const ours = installed.fingerprint ? splitFingerprint(installed.fingerprint) : null;
  const device = claim.devices.length > 0 ? claim.devices.join(', ') : (theirs?.device ?? null);
  const deviceFact: FactComparison = {
    ...compare('Code name', device, installed.device),
    ...(installed.device !== null && claim.devices.includes(installed.device) ? { verdict: 'same' as const } : {}),
  };
  const facts: FactComparison[] = [
    compare('Fingerprint', claim.fingerprint, installed.fingerprint),
    deviceFact,
    compare('Variant', theirs?.product ?? null, ours?.product ?? null),
    compare('Build number', theirs?.id ?? null, ours?.id ?? null),
    compare('Incremental', claim.incrementalVersion ?? theirs?.incremental ?? null, ours?.incremental ?? null),
    compare('Patch level', claim.patchLevel, installed.patchLevel, patchNote(claim.patchLevel, installed.patchLevel)),
  ];
  const missing = facts
    .filter((fact) => fact.verdict === 'unknown')
    .map((fact) => `${fact.fact.toLowerCase()} of the ${fact.package === null ? 'package' : 'handset'}`);
  const result = (verdict: FitVerdict, reason: string): Fit => ({ verdict, reason, facts, missing });
  if (deviceFact.verdict === 'differs') return result('other handset', `It is for ${device}, and this handset is ${installed.device}.`);
  if (!theirs || !ours) return result("can't tell", `Not enough is known: ${missing.join(', ')}.`);
  if (theirs.device !== ours.device) return result('other handset', `It is for ${theirs.device}, and this handset is ${ours.device}.`);
  if (theirs.product !== ours.product || theirs.brand !== ours.brand) {
    return result('other variant', `Everything may agree but the variant, and the variant decides: ${theirs.product} is not ${ours.product}.`);
  }
  if (claim.fingerprint === installed.fingerprint) return result('exact', 'The whole fingerprint is the installed build’s, character for character.');
  const order = compareBuilds(theirs, claim.patchLevel, ours, installed.patchLevel);
  if (order === 0) return result("can't tell", 'Same handset and variant, but which of the two builds is the newer one can not be told.');
  return order > 0
    ? result('newer', 'It is a newer build than the installed one: its image belongs to a system that is not on the handset yet.')
    : result('older', 'It is an older build than the installed one: its image belongs to a system that is no longer on the handset.');
}

type Parts = NonNullable<ReturnType<typeof splitFingerprint>>;

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

/** A run of characters that is the same on both sides, or differs. */
export interface Aligned {
  readonly same: boolean;
  readonly a: string;
  readonly b: string;
}

/** Two whole strings held against each other: longest common subsequence, so that one dropped character does not blur the rest. */
export function alignStrings(a: string, b: string): Aligned[] {
  const [n, m] = [a.length, b.length];
  const table = Array.from({ length: n + 1 }, () => new Uint16Array(m + 1));
  for (let i = n - 1; i >= 0; i -= 1) {
    for (let j = m - 1; j >= 0; j -= 1) table[i]![j] = a[i] === b[j] ? table[i + 1]![j + 1]! + 1 : Math.max(table[i + 1]![j]!, table[i]![j + 1]!);
  }
  const out: Aligned[] = [];
  const push = (same: boolean, x: string, y: string) => {
    const last = out.at(-1);
    if (last && last.same === same) out[out.length - 1] = { same, a: last.a + x, b: last.b + y };
    else out.push({ same, a: x, b: y });
  };
  let [i, j] = [0, 0];
  while (i < n || j < m) {
    if (i < n && j < m && a[i] === b[j]) push(true, a[i++]!, b[j++]!);
    else if (j >= m || (i < n && table[i + 1]![j]! >= table[i]![j + 1]!)) push(false, a[i++]!, '');
    else push(false, '', b[j++]!);
  }
  return out;
}
