import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { findNote } from './provenance';

/** A recovery that is not the maker's says so of itself. */
export interface RecoveryNote {
  readonly name: string;
  /** The newest platform level whose storage it opens. */
  readonly opensUpTo: number;
}

/**
 * The note of a recovery: a regular file of at most 4 KiB that holds a JSON object with a string `recovery`
 * and a whole number `opensUpTo`.
 */
export function recoveryNoteOf(archives: readonly CpioArchive[]): RecoveryNote | null {
  return findNote(archives, ({ recovery, opensUpTo }) =>
    typeof recovery === 'string' &&
    recovery !== '' &&
    recovery.length <= 60 &&
    Number.isSafeInteger(opensUpTo)
      ? { name: recovery, opensUpTo: opensUpTo as number }
      : null,
  );
}
