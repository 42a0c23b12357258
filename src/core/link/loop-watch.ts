import type { HandsetLink } from './handset-link';

/** A handset that came so often without once being listed starts over and over. */
export const LOOP_COMINGS = 5;

/**
 * A watch on one handset, from when it is first asked: whether it starts over and over by now. Ask it every
 * second or so. False where the link can't tell.
 */
export function loopWatch(link: Pick<HandsetLink, 'listed' | 'comings'>): () => Promise<boolean> {
  let from: number | null = null;
  return async () => {
    const comings = await link.comings();
    if (comings === null) return false;
    const isListed = (await link.listed()) !== null;
    // the other end may have begun to count anew
    if (from === null || isListed || comings < from) from = comings;
    return comings - from >= LOOP_COMINGS;
  };
}
