import type { CpioEntry } from '../formats/cpio/cpio-archive';
import { entryBytes } from '../formats/cpio/cpio-archive';
import { equalBytes } from '../bytes/bytes';

/** How to take one change back: applied in reverse order they give the stock's entries again. */
export type Inverse =
  | { readonly undo: 'delete'; readonly archive: number; readonly index: number }
  | { readonly undo: 'insert'; readonly archive: number; readonly index: number; readonly entry: CpioEntry }
  | { readonly undo: 'set'; readonly archive: number; readonly index: number; readonly entry: CpioEntry };

export interface Position {
  readonly archive: number;
  readonly index: number;
}

/** The entries of all archives while a kit is applied; every change is written down with its inverse. */
export class EntryJournal {
  readonly archives: CpioEntry[][];
  readonly inverses: Inverse[] = [];

  constructor(archives: readonly (readonly CpioEntry[])[]) {
    this.archives = archives.map((entries) => [...entries]);
  }

  at({ archive, index }: Position): CpioEntry {
    return this.archives[archive]![index]!;
  }

  /** Every copy of a name, in the order the kernel unpacks them. */
  copies(name: Uint8Array): Position[] {
    return this.archives.flatMap((entries, archive) =>
      entries.flatMap((entry, index) => (equalBytes(entry.name, name) ? [{ archive, index }] : [])),
    );
  }

  /** The copy in force: the last one. */
  inForce(name: Uint8Array): Position | null {
    return this.copies(name).at(-1) ?? null;
  }

  /** The copies in force of all names that a test takes, in the order in which they stand. */
  matching(takes: (name: Uint8Array) => boolean): Position[] {
    return this.archives.flatMap((entries, archive) =>
      entries.flatMap(({ name }, index) => {
        if (!takes(name)) return [];
        const last = this.inForce(name)!;
        return last.archive === archive && last.index === index ? [last] : [];
      }),
    );
  }

  append(entry: CpioEntry): void {
    const archive = this.archives.length - 1;
    this.archives[archive]!.push(entry);
    this.inverses.push({ undo: 'delete', archive, index: this.archives[archive]!.length - 1 });
  }

  set({ archive, index }: Position, entry: CpioEntry): void {
    this.inverses.push({ undo: 'set', archive, index, entry: this.at({ archive, index }) });
    this.archives[archive]![index] = entry;
  }

  delete({ archive, index }: Position): void {
    this.inverses.push({ undo: 'insert', archive, index, entry: this.at({ archive, index }) });
    this.archives[archive]!.splice(index, 1);
  }

  /** Deletes the copies of a name; from the back, so that the places in front stay right. */
  deleteAll(positions: readonly Position[]): void {
    for (const position of [...positions].reverse()) this.delete(position);
  }
}

/** Takes recorded changes back on entries read afresh. Entries come back as the bytes they were read as. */
export function undoAll(
  archives: readonly (readonly CpioEntry[])[],
  inverses: readonly Inverse[],
): CpioEntry[][] {
  const out = archives.map((entries) => [...entries]);
  for (const inverse of [...inverses].reverse()) {
    const entries = out[inverse.archive]!;
    if (inverse.undo === 'delete') entries.splice(inverse.index, 1);
    else entries.splice(inverse.index, inverse.undo === 'set' ? 1 : 0, inverse.entry);
  }
  return out;
}

/** Whether two lists of entries are the same bytes in the same order. */
export function sameEntries(a: readonly CpioEntry[], b: readonly CpioEntry[]): boolean {
  return a.length === b.length && a.every((entry, i) => equalBytes(entryBytes(entry), entryBytes(b[i]!)));
}
