import 'server-only';
import { EternoError } from '@/core/errors';
import { appendEvent } from '../repositories/event-repository';
import { deleteHandset, updateHandset } from '../repositories/handset-repository';
import { openRoundOf } from '../repositories/round-repository';
import { dropSetting } from '../repositories/setting-repository';
import { needHandset } from './bench-reading';
import { now } from './clock';
import { cableForKey } from './cable-service';
import { waitingKey } from './handset-history';
import { caseKey } from './rescue-cases';

/* A handset is renamed, put away and brought back, or removed with all that is kept of it. */

/** @throws {EternoError} `not-found` */
export async function renameHandset(handsetId: string, name: string): Promise<void> {
  await needHandset(handsetId);
  await updateHandset(handsetId, { name });
}

/** @throws {EternoError} `conflict` while a round of it is open */
async function needIdle(handsetId: string): Promise<void> {
  if (await openRoundOf(handsetId))
    throw new EternoError('conflict', 'a round of this handset is open: close it, or give it up, first');
}

/**
 * Everything of it is kept, and it is out of the way: no bench, no calendar, no batch.
 * @throws {EternoError} `not-found`, `conflict` while a round of it is open
 */
export async function putAway(handsetId: string): Promise<void> {
  await needHandset(handsetId);
  await needIdle(handsetId);
  await updateHandset(handsetId, { putAwayAt: now() });
}

/** @throws {EternoError} `not-found` */
export async function bringBack(handsetId: string): Promise<void> {
  await needHandset(handsetId);
  await updateHandset(handsetId, { putAwayAt: null });
}

/**
 * Removes a handset with its facts, private values, rounds and log; images and packages stay.
 * @throws {EternoError} `not-found`, `conflict` while a round of it is open
 */
export async function removeHandset(handsetId: string): Promise<void> {
  const { name } = await needHandset(handsetId);
  await needIdle(handsetId);
  await deleteHandset(handsetId);
  for (const key of [waitingKey(handsetId), caseKey(handsetId), cableForKey(handsetId)])
    await dropSetting(key);
  await appendEvent({
    at: now(),
    handsetId: null,
    roundId: null,
    kind: 'handset-removed',
    data: { version: 1, name },
  });
}
