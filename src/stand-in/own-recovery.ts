import { onSlot } from '@/core/handset/builds';
import { stockRecoveryOf } from '@/core/handset/start';
import type { Asked, RecoveryAsks } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { recoveryImage } from '@/core/handset/operate-modes';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import { SLOTS } from '@/core/handset/state';
import type { StandInStore } from './stand-in-store';

/* What a simulated handset does about its recovery. */

/** What is erased on its menu, and what it says then. */
export const WIPES = {
  erase: ['factory', 'Everything is erased.'],
  'keep storage': ['keep storage', 'Apps and settings are gone, the storage is kept.'],
  format: ['format', 'The data is formatted.'],
} as const;

/**
 * The system keeps the maker's recovery beside itself: what the machine says that it put back is put onto the
 * partition, byte by byte.
 * @returns what lies there then, by partition
 */
export async function settledRecoveries(
  store: StandInStore,
  { restoresRecovery }: HandsetProfile,
  before: HandsetState,
  { images, builds }: HandsetState,
): Promise<Readonly<Record<string, ImageFacts>>> {
  const put: Record<string, ImageFacts> = {};
  for (const slot of restoresRecovery ? SLOTS : []) {
    const key = onSlot('recovery', slot);
    const image = images[key];
    if (image === undefined || image.sha256 === before.images[key]?.sha256) continue;
    if (image.sha256 !== stockRecoveryOf(builds[slot])) await store.keepStock(key, image);
    else {
      const stock = await store.restoreStock(key);
      if (stock) put[key] = stock;
    }
  }
  return put;
}

/** The keys of the recovery start the system, with root, where root sits in the recovery; all others do what they say. */
export const whatKeysDo = <A extends string>(
  { rootPartition }: HandsetProfile,
  { images, active }: HandsetState,
  action: A,
): A | 'start-with-recovery-keys' =>
  action === 'enter-recovery' &&
  rootPartition === 'recovery' &&
  (images[onSlot('recovery', active)]?.patchedBy ?? null) !== null
    ? 'start-with-recovery-keys'
    : action;

/** What a recovery of one's own asks when it is gone into, and after an answer; null where it asks nothing more. */
export function questionOf(
  profile: HandsetProfile,
  before: HandsetState,
  after: HandsetState,
): RecoveryAsks | null {
  if (!profile.recoveryAsks || after.mode !== 'recovery' || !recoveryImage(profile, after)?.recovery)
    return null;
  if (before.mode !== 'recovery') return 'changes';
  const allowed = before.recoveryReads === true && after.recoveryReads !== true;
  return allowed && profile.restoresRecovery && after.keepsRecovery !== true ? 'keep mine' : null;
}

/** What a last word on its screen does; null where it leaves all as it is. */
export function answerOf(what: Asked, yes: boolean, code: string | null): HandsetOperation | null {
  if (what === 'changes' || what === 'keep mine') return { do: 'answer-recovery', asks: what, yes };
  if (!yes) return null;
  if (what === 'unlock') return { do: 'unlock', ...(code === null ? {} : { code }) };
  return what === 'lock' ? { do: 'lock' } : { do: 'wipe', kind: WIPES[what][0] };
}

/** What it says once something was erased. */
export const wipedWords = (what: Asked): string | null =>
  what in WIPES ? WIPES[what as keyof typeof WIPES][1] : null;
