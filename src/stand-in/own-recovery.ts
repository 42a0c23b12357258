import { onSlot } from '@/core/handset/builds';
import { stockRecoveryOf } from '@/core/handset/start';
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
