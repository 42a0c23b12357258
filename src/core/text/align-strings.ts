/* Two whole strings held against each other, character by character (docs/method.md, "Whole strings"). */

/** A run of characters that is the same on both sides, or differs. */
export interface Aligned {
  readonly same: boolean;
  readonly a: string;
  readonly b: string;
}

/** Longest common subsequence, so that one dropped character does not blur the rest. */
export function alignStrings(a: string, b: string): Aligned[] {
  const [n, m] = [a.length, b.length];
  const table = Array.from({ length: n + 1 }, () => new Uint16Array(m + 1));
  for (let i = n - 1; i >= 0; i -= 1) {
    for (let j = m - 1; j >= 0; j -= 1)
      table[i]![j] =
        a[i] === b[j] ? table[i + 1]![j + 1]! + 1 : Math.max(table[i + 1]![j]!, table[i]![j + 1]!);
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

export type DifferenceKind = 'dropped' | 'added' | 'swapped' | 'look-alike' | 'case' | 'replaced';

/**
 * One difference, as someone who compares by eye would miss it. `at` counts characters from 0 in the string
 * that was wanted.
 */
export interface Difference {
  readonly kind: DifferenceKind;
  readonly at: number;
  readonly wanted: string;
  readonly got: string;
}

/** Characters that are taken for each other, one group a line. */
const LOOK_ALIKES = [
  '0OoQD\u041e\u043e\u039f\u03bf',
  '1lIi|!\u0406\u0456',
  '5Ss',
  '8B\u0412',
  '2Zz',
  '6bG',
  '9gq',
  '-\u2013\u2014\u2212_',
  '.,\u00b7',
  'aа',
  'cс',
  'eе',
  'pр',
  'xх',
  'yу',
  'AА',
  'CС',
  'EЕ',
  'HН',
  'KК',
  'MМ',
  'PР',
  'TТ',
  'XХ',
];
const looksLike = (x: string, y: string) =>
  LOOK_ALIKES.some((group) => group.includes(x) && group.includes(y));
const sameLetter = (x: string, y: string) => x.toLowerCase() === y.toLowerCase();

/** Longest strings that are explained; a build string has about a hundred characters. */
const EXPLAINED_CHARACTERS = 512;

type Move = 'same' | 'replace' | 'drop' | 'add' | 'swap';

function replaceCost(x: string, y: string): number {
  return x === y ? 0 : sameLetter(x, y) ? 0.8 : looksLike(x, y) ? 0.9 : 1.2;
}

/**
 * The fewest slips of a hand or an eye that make `got` out of `wanted`: a character dropped, added, taken for
 * another, two swapped.
 * @returns null for strings too long to be build strings
 */
export function explainDifference(wanted: string, got: string): Difference[] | null {
  const [n, m] = [wanted.length, got.length];
  if (n > EXPLAINED_CHARACTERS || m > EXPLAINED_CHARACTERS) return null;
  const cost = Array.from({ length: n + 1 }, () => new Float64Array(m + 1));
  const moves: Move[][] = Array.from({ length: n + 1 }, () => new Array<Move>(m + 1).fill('same'));
  for (let i = 0; i <= n; i += 1) {
    for (let j = 0; j <= m; j += 1) {
      if (i === 0 && j === 0) continue;
      let best = Number.POSITIVE_INFINITY;
      const take = (value: number, move: Move) => {
        if (value >= best) return;
        best = value;
        moves[i]![j] = move;
      };
      if (i > 0 && j > 0) {
        const replaced = replaceCost(wanted[i - 1]!, got[j - 1]!);
        take(cost[i - 1]![j - 1]! + replaced, replaced === 0 ? 'same' : 'replace');
      }
      if (i > 0) take(cost[i - 1]![j]! + 1, 'drop');
      if (j > 0) take(cost[i]![j - 1]! + 1, 'add');
      if (
        i > 1 &&
        j > 1 &&
        wanted[i - 1] !== got[j - 1] &&
        wanted[i - 1] === got[j - 2] &&
        wanted[i - 2] === got[j - 1]
      )
        take(cost[i - 2]![j - 2]! + 1, 'swap');
      cost[i]![j] = best;
    }
  }
  return readBack(wanted, got, moves);
}

function readBack(wanted: string, got: string, moves: readonly (readonly Move[])[]): Difference[] {
  const out: Difference[] = [];
  let [i, j] = [wanted.length, got.length];
  while (i > 0 || j > 0) {
    const move = moves[i]![j]!;
    const [w, g] = [i > 0 ? wanted[i - 1]! : '', j > 0 ? got[j - 1]! : ''];
    if (move === 'drop') out.push({ kind: 'dropped', at: (i -= 1), wanted: w, got: '' });
    else if (move === 'add') {
      j -= 1;
      out.push({ kind: 'added', at: i, wanted: '', got: g });
    } else if (move === 'swap') {
      [i, j] = [i - 2, j - 2];
      out.push({ kind: 'swapped', at: i, wanted: wanted.slice(i, i + 2), got: got.slice(j, j + 2) });
    } else {
      [i, j] = [i - 1, j - 1];
      if (move === 'replace')
        out.push({
          kind: sameLetter(w, g) ? 'case' : looksLike(w, g) ? 'look-alike' : 'replaced',
          at: i,
          wanted: w,
          got: g,
        });
    }
  }
  return out.reverse();
}

/** Differences beyond which two strings are just different, and saying each would help nobody. */
const WORTH_TELLING = 3;
/** Two strings that begin differently and agree at their end are easily taken for each other. */
const ENDING_CHARACTERS = 4;

const WORDS: Readonly<Record<DifferenceKind, (one: Difference) => string>> = {
  dropped: ({ wanted, at }) => `“${wanted}” is missing at character ${at + 1}`,
  added: ({ got, at }) => `“${got}” too many at character ${at + 1}`,
  swapped: ({ wanted, got, at }) => `“${wanted}” became “${got}” at character ${at + 1}`,
  'look-alike': ({ wanted, got, at }) => `“${wanted}” and “${got}” look alike at character ${at + 1}`,
  case: ({ wanted, got, at }) => `“${wanted}” became “${got}” at character ${at + 1}`,
  replaced: ({ wanted, got, at }) => `“${wanted}” became “${got}” at character ${at + 1}`,
};

/**
 * How two strings differ, in words, where an eye could miss it; null where they are the same, or plainly two
 * strings.
 */
export function differenceInWords(wanted: string, got: string): string | null {
  if (wanted === got) return null;
  const differences = explainDifference(wanted, got);
  if (!differences) return null;
  const slips = differences.length <= WORTH_TELLING && differences.some((one) => one.kind !== 'replaced');
  if (slips) return differences.map((one) => WORDS[one.kind](one)).join('; ');
  const ending = commonEnding(wanted, got);
  return ending >= ENDING_CHARACTERS && wanted[0] !== got[0]
    ? `only the last ${ending} characters agree, and an ending is no match`
    : null;
}

export function commonEnding(a: string, b: string): number {
  let n = 0;
  while (n < a.length && n < b.length && a[a.length - 1 - n] === b[b.length - 1 - n]) n += 1;
  return n;
}
