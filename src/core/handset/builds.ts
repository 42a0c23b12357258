import { monthOf } from '../feasibility/patch-levels';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { BuildFacts, HandsetProfile } from './state';

/** What the machine knows of a build; where nothing is told, what its own name says. */
export function buildFacts(profile: HandsetProfile, fingerprint: string): BuildFacts {
  const told = profile.builds[fingerprint];
  if (told) return told;
  const date = /\.(\d\d)(\d\d)\d\d\./.exec(splitFingerprint(fingerprint)?.id ?? '');
  const patchLevel = date ? `20${date[1]}-${date[2]}-05` : '1970-01-05';
  return { patchLevel, sdk: profile.sdk, index: 0, bootloader: 0 };
}

/** The date in a build's name as a number, then its own number; 0 for what it does not say. */
function named(fingerprint: string): readonly [number, number] {
  const parts = splitFingerprint(fingerprint);
  return [Number(/\.(\d{6})\./.exec(parts?.id ?? '')?.[1] ?? 0), Number(parts?.incremental ?? 0) || 0];
}

/**
 * Which of two builds is the newer one: above 0 where the first is. By the time they were made where that is
 * told of both; else by patch level and, within one, by what their names say.
 */
export function compareBuilds(profile: HandsetProfile, a: string, b: string): number {
  if (a === b) return 0;
  const [x, y] = [buildFacts(profile, a), buildFacts(profile, b)];
  if (x.timestamp !== undefined && y.timestamp !== undefined && x.timestamp !== y.timestamp)
    return Math.sign(x.timestamp - y.timestamp);
  if (x.patchLevel !== y.patchLevel) return x.patchLevel > y.patchLevel ? 1 : -1;
  const [[day, number], [otherDay, otherNumber]] = [named(a), named(b)];
  return Math.sign(day - otherDay || number - otherNumber);
}

/** The newest build that is known to come after another; null where none does. */
export function newestAfter(profile: HandsetProfile, build: string): string | null {
  const later = Object.keys(profile.builds).filter((one) => compareBuilds(profile, one, build) > 0);
  return later.sort((a, b) => compareBuilds(profile, a, b)).at(-1) ?? null;
}

/** Whether keys that were opened under `level` open under a build. */
export function keysOpen(profile: HandsetProfile, level: string | null, build: string): boolean {
  if (!profile.bindsKeys || level === null) return true;
  return (monthOf(buildFacts(profile, build).patchLevel) ?? 0) >= (monthOf(level) ?? 0);
}

/** `init_boot_a`. */
export const onSlot = (partition: string, slot: string) => `${partition}_${slot}`;
