import type { PatchChange } from '../words/changes';
import type { EntryComparison, ImageComparison } from './compare-images';

/*
 * What a patch made of a stock image, in the fewest lines: entries first, then what lies outside the ramdisk. The
 * whole of it is the comparison.
 */

/** What changes with every change of an entry, and says nothing of its own. */
const FOLLOWS = {
  sections: ['header', 'ramdisk', 'vendor_ramdisk', 'ramdisk_table'],
  fields: ['size'],
} as const satisfies Record<string, readonly string[]>;
const follows = (names: readonly string[], name: string) => names.includes(name);

/** @param comparison the stock image with what was made of it, in this order */
export function whatChanged({ entries, sections, header }: ImageComparison): PatchChange[] {
  return [
    ...(entries ? entryChanges(entries) : []),
    ...sections.flatMap(({ name, verdict, a, b }): PatchChange[] =>
      verdict === 'same' || follows(FOLLOWS.sections, name)
        ? []
        : [{ code: 'section', section: name, verdict, grewBytes: (b?.size ?? 0) - (a?.size ?? 0) }],
    ),
    ...header
      .filter(({ same, field }) => !same && !follows(FOLLOWS.fields, field))
      .map(({ field }): PatchChange => ({ code: 'field', field })),
  ];
}

function entryChanges({ changed, moved, added, removed }: EntryComparison): PatchChange[] {
  return [
    ...changed.map(({ name, what }): PatchChange =>
      what.includes('content') || what.includes('kind')
        ? { code: 'replaced', entry: name, keptAs: moved.find(({ from }) => from === name)?.to ?? null }
        : { code: 'marked', entry: name, differs: what },
    ),
    ...moved
      .filter(({ from }) => !changed.some(({ name }) => name === from))
      .map(({ from, to }): PatchChange => ({ code: 'moved', entry: from, to })),
    ...added.map(({ name }): PatchChange => ({ code: 'added', entry: name })),
    ...removed.map(({ name }): PatchChange => ({ code: 'removed', entry: name })),
  ];
}
