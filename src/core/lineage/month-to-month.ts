import type { MonthSays } from '../words/lineage';
import type { ImageComparison } from '../patch/compare-images';

/*
 * This build's stock image against the last one's, and what that means for the patch (docs/method.md, "Month
 * to month").
 */

export interface MonthToMonth {
  readonly says: MonthSays;
  /** Whether a kit that worked last month can be expected to work on this one. */
  readonly expectWorks: 'yes' | 'likely' | 'not known';
}

/** Fields that change with every build. */
const LEVEL_FIELDS = new Set(['patch level', 'release']);

/** What changed between two months' images of one partition; the older image is a, the newer b. */
export function monthToMonth(comparison: ImageComparison): MonthToMonth {
  if (comparison.same) return { says: { code: 'same' }, expectWorks: 'yes' };
  const layout = layoutChange(comparison);
  if (layout) return { says: layout, expectWorks: 'not known' };
  const change = contentChange(comparison);
  return change
    ? { says: change, expectWorks: 'likely' }
    : { says: { code: 'patch-level-only' }, expectWorks: 'yes' };
}

function layoutChange({ header, sections }: ImageComparison): MonthSays | null {
  const version = header.find(({ field, same }) => field === 'header version' && !same);
  if (version) return { code: 'header-version', from: String(version.a), to: String(version.b) };
  const names = sections
    .filter(({ verdict }) => verdict === 'added' || verdict === 'removed')
    .map(({ name }) => name);
  return names.length > 0 ? { code: 'sections', names } : null;
}

/** What changed beside fields that every build changes; null where nothing did. */
function contentChange({ header, sections, entries }: ImageComparison): MonthSays | null {
  const changed = sections.filter(({ verdict }) => verdict === 'changed').map(({ name }) => name);
  const { added = [], removed = [], changed: different = [], moved = [] } = entries ?? {};
  const counts = {
    added: added.length,
    removed: removed.length,
    changed: different.length,
    moved: moved.length,
  };
  const ramdisk = Object.values(counts).some((count) => count > 0);
  if (changed.includes('kernel')) return { code: 'kernel', ramdiskToo: ramdisk };
  if (ramdisk)
    return {
      code: 'ramdisk',
      counts,
      gone: [...removed.map(({ name }) => name), ...moved.map(({ from }) => from)],
    };
  const fields = header.filter(({ field, same }) => !same && field !== 'size' && !LEVEL_FIELDS.has(field));
  if (fields.length === 0 && !changed.some((name) => ['dtb', 'bootconfig', 'recovery_dtbo'].includes(name)))
    return null;
  return {
    code: 'fields',
    names: [
      ...fields.map(({ field }) => field),
      ...changed.filter((name) => name !== 'header' && name !== 'signature'),
    ],
  };
}
