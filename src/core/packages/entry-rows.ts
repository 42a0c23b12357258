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

/** All entries in the order they are unpacked, each with its place in the tree. */
export function entryRows(ramdisk: RamdiskReport): EntryRow[] {
  const last = new Map<string, string>();
  const rows = ramdisk.archives.flatMap((archive, a) =>
    archive.entries.map((entry, i) => {
      const key = `${a}:${i}`;
      last.set(entry.nameHex, key);
      return { entry, archive: a + 1, key };
    }),
  );
  return rows.map((row) => {
    const parts = row.entry.name.split('/');
    return { ...row, overruled: last.get(row.entry.nameHex) !== row.key, depth: parts.length - 1, label: parts.at(-1)! };
  });
}

/** Rows whose name holds every word of a search. */
export function searchRows(rows: readonly EntryRow[], search: string): readonly EntryRow[] {
  const words = search
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  return words.length === 0 ? rows : rows.filter(({ entry }) => words.every((word) => entry.name.toLowerCase().includes(word)));
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
