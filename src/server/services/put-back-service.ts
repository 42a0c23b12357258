import 'server-only';
import { EternoError } from '@/core/errors';
import { DEEDS, undoneBy } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-kind';
import type { PutBackRow } from '../db/models';
import { closePutBack, insertPutBack, putBacksOf } from '../repositories/setting-repository';
import { now } from './clock';

/* Temporary changes of a handset: opened by the step that makes one, closed by the step that undoes it, or by hand. */

export async function openPutBacks(handsetId: string): Promise<Readonly<PutBackRow>[]> {
  return (await putBacksOf(handsetId)).filter((row) => row.closedAt === null);
}

/** What a step that was done opens and closes. */
export async function noteStep(handsetId: string, roundId: string, key: StepKey): Promise<void> {
  for (const row of await openPutBacks(handsetId)) if (undoneBy(row.kind).includes(key)) await closePutBack(row.id, now(), `step ${key}`);
  const { opens } = DEEDS[key];
  if (opens) await insertPutBack({ handsetId, roundId, kind: key, what: opens.what, openedAt: now() });
}

/** Something that only the person knows, such as a screen lock that was taken off. */
export async function notePutBack(handsetId: string, roundId: string | null, what: string): Promise<void> {
  await insertPutBack({ handsetId, roundId, kind: 'by hand', what, openedAt: now() });
}

/** @throws {EternoError} `not-found` */
export async function closePutBackByHand(handsetId: string, id: string, how: string): Promise<void> {
  if (!(await openPutBacks(handsetId)).some((row) => row.id === id)) throw new EternoError('not-found', 'Nothing of that is open.');
  await closePutBack(id, now(), `by hand: ${how}`);
}
