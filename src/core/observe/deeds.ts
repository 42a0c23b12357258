import type { Of, Seen, Sights } from './found';

/* What a bootloader’s tool says that it did. */

const KIB = 1024;
/** A tool that counts in KiB may round either way. */
export const isOfSize = (bytes: number, kib: number) =>
  Math.ceil(bytes / KIB) === kib || Math.floor(bytes / KIB) === kib;

/** Deeds of a bootloader’s tool; a result on a line of its own belongs to the deed before it. */
export function deedsOf(sights: Sights): Seen<Of<'deed'>>[] {
  const deeds: Seen<Of<'deed'>>[] = [];
  for (const one of sights.of('deed', 'result')) {
    if (one.sight.kind === 'deed') deeds.push(one as Seen<Of<'deed'>>);
    else {
      const open = deeds.findLastIndex(({ sight }) => sight.ok === null);
      if (open >= 0) deeds[open] = { ...deeds[open]!, sight: { ...deeds[open]!.sight, ok: one.sight.ok } };
    }
  }
  return deeds;
}

export interface DoneDeed {
  readonly name: string;
  readonly line: number;
  /** What was sent for it; null where the tool does not say, or it was sent in parts. */
  readonly kib: number | null;
  /** Parts of the same image that are still to come. */
  readonly left: number;
}

/** Writes, or erasures, that succeeded, each with what was sent right before it. */
export function writesDone(sights: Sights, deed: 'write' | 'erase'): DoneDeed[] {
  const done: DoneDeed[] = [];
  let sent: Pick<DoneDeed, 'kib' | 'left'> = { kib: null, left: 0 };
  for (const { sight, line } of deedsOf(sights)) {
    if (sight.deed === 'send') sent = sight;
    if (sight.deed !== deed) continue;
    if (sight.ok === true) done.push({ name: sight.name, line, kib: sent.kib, left: sent.left });
    sent = { kib: null, left: 0 };
  }
  return done;
}
