import type { ImageComparison } from '../patch/compare-images';

/*
 * This build's stock image against the last one's, and what that means for the patch (docs/method.md, "Month
 * to month").
 */

export type MonthChange = 'same' | 'patch level only' | 'ramdisk' | 'kernel' | 'header' | 'another layout';

export interface MonthToMonth {
  readonly change: MonthChange;
  readonly sentence: string;
  /** What it means for patching this month. */
  readonly meaning: string;
  /** Whether a kit that worked last month can be expected to work on this one. */
  readonly expectWorks: 'yes' | 'likely' | 'not known';
}

/** Fields that change with every build. */
const LEVEL_FIELDS = new Set(['patch level', 'release']);

/** @param comparison the older image as a, the newer as b */
export function monthToMonth(comparison: ImageComparison): MonthToMonth {
  if (comparison.same) {
    return {
      change: 'same',
      sentence: 'Byte for byte the same image.',
      meaning: 'Last month’s patched image is this month’s too; only the build around it changed.',
      expectWorks: 'yes',
    };
  }
  const appeared = comparison.sections
    .filter(({ verdict }) => verdict === 'added' || verdict === 'removed')
    .map(({ name }) => name);
  const version = comparison.header.find(({ field, same }) => field === 'header version' && !same);
  if (version || appeared.length > 0) {
    const what = version
      ? `the header version went from ${version.a} to ${version.b}`
      : `${appeared.join(' and ')} came or went`;
    return {
      change: 'another layout',
      sentence: `The layout changed: ${what}.`,
      meaning: 'Treat it as a new handset: try it where a bad image costs one restart.',
      expectWorks: 'not known',
    };
  }
  const changed = new Set(
    comparison.sections.filter(({ verdict }) => verdict === 'changed').map(({ name }) => name),
  );
  const entries = comparison.entries;
  const ramdisk =
    entries !== null &&
    entries.added.length + entries.removed.length + entries.changed.length + entries.moved.length > 0;
  if (changed.has('kernel')) {
    return {
      change: 'kernel',
      sentence: ramdisk ? 'Kernel and ramdisk changed.' : 'The kernel changed.',
      meaning: 'The patch goes the same way; modules that touch the kernel need a look.',
      expectWorks: 'likely',
    };
  }
  if (ramdisk) {
    const { added, removed, changed: different, moved } = entries;
    const parts = [
      added.length > 0 ? `${added.length} added` : '',
      removed.length > 0 ? `${removed.length} removed` : '',
      different.length > 0 ? `${different.length} changed` : '',
      moved.length > 0 ? `${moved.length} moved` : '',
    ].filter((part) => part !== '');
    const touched = [...removed.map(({ name }) => name), ...moved.map(({ from }) => from)];
    return {
      change: 'ramdisk',
      sentence: `Entries of the ramdisk: ${parts.join(', ')}.`,
      meaning:
        touched.length > 0
          ? `The patch may look for ${touched.slice(0, 3).join(', ')}, which is gone: the kit says so before anything is written.`
          : 'The patch goes the same way; its proof tells.',
      expectWorks: 'likely',
    };
  }
  const header = comparison.header.filter(
    ({ field, same }) => !same && field !== 'size' && !LEVEL_FIELDS.has(field),
  );
  if (header.length > 0 || changed.has('dtb') || changed.has('bootconfig') || changed.has('recovery_dtbo')) {
    const names = [
      ...header.map(({ field }) => field),
      ...[...changed].filter((name) => name !== 'header' && name !== 'signature'),
    ];
    return {
      change: 'header',
      sentence: `Changed: ${names.join(', ')}.`,
      meaning: 'The ramdisk is the same, so the patch goes the same way.',
      expectWorks: 'likely',
    };
  }
  return {
    change: 'patch level only',
    sentence: 'Only patch level, fingerprint and signature changed.',
    meaning: 'The patch changes the same bytes in the same places.',
    expectWorks: 'yes',
  };
}
