import type { ImageReport } from '../packages/inspect-image';
import type { ImageComparison } from './compare-images';

/*
 * A patched image made elsewhere, held against the stock image it claims to come from (docs/method.md,
 * "Images patched elsewhere").
 */

export interface JudgedLine {
  readonly check: string;
  readonly verdict: 'holds' | 'unexpected' | 'another build';
  /** What was seen, where it is not what was expected. */
  readonly seen: string | null;
}

export interface JudgedPatch {
  /** The worst of the lines. */
  readonly verdict: JudgedLine['verdict'];
  readonly lines: readonly JudgedLine[];
}

/** Fields of the header that a patch may change. */
const FREE_FIELDS = new Set(['command line', 'size']);
/** Below this share of surviving entries the ramdisk is not this stock's. */
const SURVIVING_SHARE = 0.5;

type Odd = 'unexpected' | 'another build';
const line = (check: string, ok: boolean, otherwise: Odd, seen: string): JudgedLine => ({
  check,
  verdict: ok ? 'holds' : otherwise,
  seen: ok ? null : seen,
});
const became = (a: string | null, b: string | null) => `${a ?? 'none'} became ${b ?? 'none'}`;

const sectionLines = ({ sections }: ImageComparison): JudgedLine[] =>
  sections
    .filter(({ name }) => name !== 'header' && name !== 'ramdisk')
    .map(({ name, verdict }) =>
      line(
        `the ${name} is the stock’s`,
        verdict === 'same',
        name === 'kernel' ? 'another build' : 'unexpected',
        verdict,
      ),
    );

/** What tells the build is always said, all else where it differs. */
const headerLines = ({ header }: ImageComparison): JudgedLine[] =>
  header.flatMap(({ field, a, b, same }) => {
    const build = field === 'patch level' || field === 'release';
    if (FREE_FIELDS.has(field) || (same && !build)) return [];
    return [line(`the ${field} is the stock’s`, same, build ? 'another build' : 'unexpected', became(a, b))];
  });

const buildLines = ({ avb }: ImageComparison): JudgedLine[] =>
  avb
    .filter(({ field }) => field.startsWith('com.android.build.') || field === 'rollback index')
    .map(({ field, a, b, same }) =>
      line(`${field} is the stock’s`, same || b === null, 'another build', became(a, b)),
    );

function entryLines({ entries }: ImageComparison): JudgedLine[] {
  if (!entries) return [];
  const { same, changed, removed, moved, added } = entries;
  const leftBehind = moved.filter(({ from }) => !changed.some(({ name }) => name === from));
  const before = same + changed.length + removed.length + leftBehind.length;
  const kept = same + moved.length;
  return [
    line(
      'most of the stock’s entries are there',
      before === 0 || kept / before >= SURVIVING_SHARE,
      'another build',
      `${kept} of ${before}`,
    ),
    line(
      'something was added or changed',
      added.length + changed.length + moved.length > 0,
      'unexpected',
      'nothing: it is not patched',
    ),
  ];
}

export function judgePatched(
  stock: ImageReport,
  patched: ImageReport,
  comparison: ImageComparison,
): JudgedPatch {
  const note = patched.patchedBy;
  const lines = [
    ...sectionLines(comparison),
    ...headerLines(comparison),
    ...buildLines(comparison),
    ...entryLines(comparison),
    ...(note
      ? [
          line(
            'the note in it names this stock image',
            note.stockSha256 === stock.sha256,
            'another build',
            `it names ${note.stockSha256}`,
          ),
        ]
      : []),
  ];
  const has = (verdict: Odd) => lines.some((one) => one.verdict === verdict);
  return {
    verdict: has('another build') ? 'another build' : has('unexpected') ? 'unexpected' : 'holds',
    lines,
  };
}
