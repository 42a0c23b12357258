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

/** Which of two builds is the newer one: above 0 where the first is. */
export function compareBuilds(profile: HandsetProfile, a: string, b: string): number {
  const [x, y] = [buildFacts(profile, a).patchLevel, buildFacts(profile, b).patchLevel];
  return x === y ? 0 : x > y ? 1 : -1;
}

/** Whether keys that were opened under `level` open under a build. */
export function keysOpen(profile: HandsetProfile, level: string | null, build: string): boolean {
  if (!profile.bindsKeys || level === null) return true;
  return (monthOf(buildFacts(profile, build).patchLevel) ?? 0) >= (monthOf(level) ?? 0);
}

/** `init_boot_a`. */
export const onSlot = (partition: string, slot: string) => `${partition}_${slot}`;
