import type { HandsetLink } from './handset-link';

/** A handset that came so often without once being listed starts over and over. */
export const LOOP_COMINGS = 5;

/** What came while nobody looked so long says nothing: it may have been switched on and off by hand. */
export const UNWATCHED_MS = 300_000;

/**
 * A watch on one handset, from when it is first asked: whether it starts over and over by now. Ask it every
 * few seconds. False where the link can't tell.
 * @param now milliseconds
 */
export function loopWatch(
  link: Pick<HandsetLink, 'listed' | 'comings'>,
  now: () => number,
): () => Promise<boolean> {
  let from: number | null = null;
  let askedAt = now();
  return async () => {
    const unwatched = now() - askedAt > UNWATCHED_MS;
    askedAt = now();
    const comings = await link.comings();
    if (comings === null) return false;
    const isListed = (await link.listed()) !== null;
    // the other end may have begun to count anew
    if (from === null || unwatched || isListed || comings < from) from = comings;
    return comings - from >= LOOP_COMINGS;
  };
}
