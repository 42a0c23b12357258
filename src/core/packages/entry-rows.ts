import type { EntryReport, RamdiskReport } from './list-ramdisk';

/** An entry as a row: where it lies, and whether the kernel will let it count. */
export interface EntryRow {
  readonly entry: EntryReport;
  /** Counted from 1 over all streams. */
  readonly archive: number;
  /** A later entry of the same name wins over it. */
  readonly overruled: boolean;
  readonly depth: number;
  readonly label: string;
  readonly key: string;
}

/** Names part by part, so that what is in a folder follows it. */
function byPath(a: readonly string[], b: readonly string[]): number {
  for (let i = 0; i < Math.min(a.length, b.length); i += 1) if (a[i] !== b[i]) return a[i]! < b[i]! ? -1 : 1;
  return a.length - b.length;
}

/**
 * All entries as a tree, by path; of several with one name the earlier comes first. An entry without its
 * folder shows its whole name.
 */
export function entryRows(ramdisk: RamdiskReport): EntryRow[] {
  const last = new Map<string, string>();
  const rows = ramdisk.archives.flatMap((archive, a) =>
    archive.entries.map((entry, i) => {
      const key = `${a}:${i}`;
      last.set(entry.nameHex, key);
      return { entry, archive: a + 1, key, parts: entry.name.split('/') };
    }),
  );
  rows.sort((a, b) => byPath(a.parts, b.parts));
  const names = new Set(rows.map(({ entry }) => entry.name));
  return rows.map(({ parts, ...row }) => {
    const housed = parts.length === 1 || names.has(parts.slice(0, -1).join('/'));
    const depth = housed ? parts.length - 1 : 0;
    return {
      ...row,
      overruled: last.get(row.entry.nameHex) !== row.key,
      depth,
      label: housed ? parts.at(-1)! : row.entry.name,
    };
  });
}

/** Rows whose name holds every word of a search. */
export function searchRows(rows: readonly EntryRow[], search: string): readonly EntryRow[] {
  const words = search
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  return words.length === 0
    ? rows
    : rows.filter(({ entry }) => words.every((word) => entry.name.toLowerCase().includes(word)));
}

const KINDS: Readonly<Record<string, string>> = {
  '4': 'folder',
  '10': 'file',
  '12': 'link',
  '2': 'character node',
  '6': 'block node',
  '14': 'socket',
  '1': 'pipe',
};
/** What an entry is, by the type bits of its octal mode. */
export const kindOf = ({ mode }: Pick<EntryReport, 'mode'>): string => KINDS[mode.slice(0, -4)] ?? 'entry';
/** `rwxr-x---` */
export function permissionsOf({ mode }: Pick<EntryReport, 'mode'>): string {
  const bits = Number.parseInt(mode.slice(-3), 8);
  return [...'rwxrwxrwx'].map((letter, i) => (bits & (1 << (8 - i)) ? letter : '-')).join('');
}
