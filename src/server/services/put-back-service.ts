import 'server-only';
import { EternoError } from '@/core/errors';
import type { PutBackRow } from '../db/models';
import { closePutBack, insertPutBack, putBacksOf } from '../repositories/setting-repository';
import { now } from './clock';

/*
 * Temporary changes of a handset: opened by the step that makes one, closed by the step that undoes it, or by
 * hand.
 */

export async function openPutBacks(handsetId: string): Promise<Readonly<PutBackRow>[]> {
  return (await putBacksOf(handsetId)).filter((row) => row.closedAt === null);
}

/** Something that only the person knows, such as a screen lock that was taken off. */
export async function notePutBack(handsetId: string, roundId: string | null, what: string): Promise<void> {
  await insertPutBack({ handsetId, roundId, kind: 'by hand', what, openedAt: now() });
}

/** @throws {EternoError} `not-found` */
export async function closePutBackByHand(handsetId: string, id: string, how: string): Promise<void> {
  if (!(await openPutBacks(handsetId)).some((row) => row.id === id))
    throw new EternoError('not-found', 'Nothing of that is open.');
  await closePutBack(id, now(), how.trim() === '' ? 'by hand' : `by hand: ${how.trim()}`);
}
