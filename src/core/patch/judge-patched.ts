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

export function judgePatched(
  stock: ImageReport,
  patched: ImageReport,
  comparison: ImageComparison,
): JudgedPatch {
  const lines: JudgedLine[] = [];
  const say = (check: string, ok: boolean, otherwise: 'unexpected' | 'another build', seen: string) =>
    lines.push({ check, verdict: ok ? 'holds' : otherwise, seen: ok ? null : seen });
  for (const section of comparison.sections) {
    if (section.name === 'header' || section.name === 'ramdisk') continue;
    say(
      `the ${section.name} is the stock’s`,
      section.verdict === 'same',
      section.name === 'kernel' ? 'another build' : 'unexpected',
      section.verdict,
    );
  }
  for (const { field, a, b, same } of comparison.header) {
    if (FREE_FIELDS.has(field)) continue;
    const build = field === 'patch level' || field === 'release';
    if (!same || build)
      say(
        `the ${field} is the stock’s`,
        same,
        build ? 'another build' : 'unexpected',
        `${a ?? 'none'} became ${b ?? 'none'}`,
      );
  }
  const builds = comparison.avb.filter(
    ({ field }) => field.startsWith('com.android.build.') || field === 'rollback index',
  );
  for (const { field, a, b, same } of builds)
    say(
      `${field} is the stock’s`,
      same || b === null,
      'another build',
      `${a ?? 'none'} became ${b ?? 'none'}`,
    );
  const entries = comparison.entries;
  if (entries) {
    const before =
      entries.same +
      entries.changed.length +
      entries.removed.length +
      entries.moved.filter(({ from }) => !entries.changed.some(({ name }) => name === from)).length;
    const kept = entries.same + entries.moved.length;
    say(
      'most of the stock’s entries are there',
      before === 0 || kept / before >= SURVIVING_SHARE,
      'another build',
      `${kept} of ${before}`,
    );
    say(
      'something was added or changed',
      entries.added.length + entries.changed.length + entries.moved.length > 0,
      'unexpected',
      'nothing: it is not patched',
    );
  }
  const note = patched.patchedBy;
  if (note)
    say(
      'the note in it names this stock image',
      note.stockSha256 === stock.sha256,
      'another build',
      `it names ${note.stockSha256}`,
    );
  const worst = lines.some((line) => line.verdict === 'another build')
    ? 'another build'
    : lines.some((line) => line.verdict === 'unexpected')
      ? 'unexpected'
      : 'holds';
  return { verdict: worst, lines };
}
