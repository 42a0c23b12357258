import 'server-only';
import { EternoError } from '@/core/errors';
import * as say from '@/core/words/step-evidence';
import { needHandset } from '../services/bench-reading';
import { tellRoot } from '../services/root-history';
import { openRound } from './open-rounds';
import { PLAIN_LIMITS, planStockBack, startRound } from './opening';

/* What a person says of a handset outside a round, and the round that follows from it. */

/**
 * It does not start: the round that puts its stock image back, from the state that it is in. A round that is
 * open goes that way from now on.
 * @returns the round
 * @throws {EternoError} `conflict` while a step runs, `refused` where no way leads back
 */
export async function saidNotToStart(handsetId: string): Promise<string> {
  await needHandset(handsetId);
  const open = await openRound(handsetId);
  await tellRoot(handsetId, open?.id ?? null, 'broken', say.DOES_NOT_START);
  if (!open)
    return startRound({ handsetId, goal: 'return to stock', target: null, lane: null, limits: PLAIN_LIMITS });
  await planStockBack(open.id, open.version);
  return open.id;
}

/**
 * It is rooted already: that counts as said until it is proved.
 * @throws {EternoError} `conflict` in the middle of a round, which finds out by itself
 */
export async function saidToBeRooted(handsetId: string): Promise<void> {
  await needHandset(handsetId);
  if (await openRound(handsetId))
    throw new EternoError('conflict', 'a round of this handset is open: it finds out what root is there');
  await tellRoot(handsetId, null, 'unproven', say.ROOTED_AS_SAID);
}
