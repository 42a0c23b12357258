import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { isKind, TYPE } from '../formats/cpio/cpio-archive';
import { LIMITS } from '../limits';

/** Who patched an image, and from which stock image. */
export interface PatchedBy {
  readonly kit: string;
  readonly stockSha256: string;
}

/** Finds the note a kit leaves: a regular file of at most 4 KiB that holds a JSON object with a string `kit` and a 64-hex `stock`. */
export function provenanceOf(archives: readonly CpioArchive[]): PatchedBy | null {
  for (const archive of archives) {
    for (const entry of archive.entries) {
      if (!isKind(entry, TYPE.file) || entry.data.length > LIMITS.markerBytes || entry.data[0] !== 0x7b) continue;
      const note = parseNote(entry.data);
      if (note) return note;
    }
  }
  return null;
}

function parseNote(data: Uint8Array): PatchedBy | null {
  try {
    const value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(data)) as { kit?: unknown; stock?: unknown };
    if (typeof value.kit === 'string' && typeof value.stock === 'string' && /^[0-9a-f]{64}$/i.test(value.stock)) {
      return { kit: value.kit, stockSha256: value.stock.toLowerCase() };
    }
  } catch {
    // not JSON: not a note
  }
  return null;
}
