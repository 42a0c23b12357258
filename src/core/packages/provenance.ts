import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { isKind, TYPE } from '../formats/cpio/cpio-archive';
import { LIMITS } from '../limits';

/** Who patched an image, and from which stock image. */
export interface PatchedBy {
  readonly kit: string;
  readonly stockSha256: string;
}

/**
 * Finds the note a kit leaves: a regular file of at most 4 KiB that holds a JSON object with a string `kit`
 * and a 64-hex `stock`.
 */
export function provenanceOf(archives: readonly CpioArchive[]): PatchedBy | null {
  return findNote(archives, ({ kit, stock }) =>
    typeof kit === 'string' && typeof stock === 'string' && /^[0-9a-f]{64}$/i.test(stock)
      ? { kit, stockSha256: stock.toLowerCase() }
      : null,
  );
}

/** The first small regular file that holds a JSON object of which `read` makes something. */
export function findNote<T>(
  archives: readonly CpioArchive[],
  read: (value: Readonly<Record<string, unknown>>) => T | null,
): T | null {
  for (const archive of archives) {
    for (const entry of archive.entries) {
      if (!isKind(entry, TYPE.file) || entry.data.length > LIMITS.markerBytes || entry.data[0] !== 0x7b)
        continue;
      const value = parseObject(entry.data);
      const found = value && read(value);
      if (found) return found;
    }
  }
  return null;
}

function parseObject(data: Uint8Array): Readonly<Record<string, unknown>> | null {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(data)) as Readonly<
      Record<string, unknown>
    >;
  } catch {
    // not JSON: not a note
    return null;
  }
}
