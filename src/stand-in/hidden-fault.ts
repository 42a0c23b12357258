import { EternoError } from '@/core/errors';
import { onSlot } from '@/core/handset/builds';
import type { Spoiled } from '@/core/handset/hidden-faults';
import { putFault } from '@/core/handset/hidden-faults';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import { otherSlot } from '@/core/handset/state';
import { slotOf, unslotted } from '@/core/text/partition-names';
import { isHiddenFault } from '@/core/words/hidden-faults';
import type { StandInStore } from './stand-in-store';

/* Faults that hide, put into a simulated handset: into its state, and really into its bytes. */

const ROT_BYTES = 512;

/** Some of it is other than it was, here and there. */
function rotted(bytes: Uint8Array): Uint8Array {
  const out = bytes.slice();
  for (const share of [0, 0.25, 0.5]) {
    const from = Math.floor(out.length * share);
    for (let at = from; at < Math.min(out.length, from + ROT_BYTES); at += 1) out[at] = out[at]! ^ 0xa5;
  }
  return out;
}

/**
 * @returns what lies there now
 * @throws {EternoError} `handset-refused` where no other build's image is at hand
 */
async function spoilImage(store: StandInStore, { partition, how }: Spoiled): Promise<ImageFacts> {
  if (how === 'other build') {
    const base = unslotted(partition);
    if (!(await store.lookAtOffer(base)))
      throw new EternoError(
        'handset-refused',
        `no ${base} of another build is at hand: no update is out for it`,
      );
    await store.copyOffer(base, partition);
    return store.look(partition);
  }
  if (how === 'other slot') {
    const there = onSlot(unslotted(partition), otherSlot(slotOf(partition) === 'b' ? 'b' : 'a'));
    return store.writeImage(partition, await store.readImage(there));
  }
  const bytes = await store.readImage(partition);
  const image = await store.writeImage(
    partition,
    how === 'rotted' ? rotted(bytes) : bytes.subarray(0, Math.floor(bytes.length / 2)),
  );
  // bytes that no reader knows say nothing of themselves
  const broken = image.broken ?? (how === 'cut' ? 'its write was cut short' : 'its bytes are rotted');
  return { ...image, broken };
}

/**
 * Puts a fault in that it does not show yet.
 * @returns its state with it
 * @throws {EternoError} `bad-field` for none that is known, `handset-refused` where it can't have it
 */
export async function putHiddenFault(
  {
    profile,
    state,
    store,
  }: { readonly profile: HandsetProfile; readonly state: HandsetState; readonly store: StandInStore },
  fault: string,
): Promise<HandsetState> {
  if (!isHiddenFault(fault)) throw new EternoError('bad-field', 'No such fault is known.');
  const put = putFault(profile, state, fault);
  if (typeof put === 'string') throw new EternoError('handset-refused', `Not here: ${put}.`);
  if (put.spoiled === null) return put.state;
  const image = await spoilImage(store, put.spoiled);
  return { ...put.state, images: { ...put.state.images, [put.spoiled.partition]: image } };
}
