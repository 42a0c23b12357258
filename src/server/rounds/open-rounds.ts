import 'server-only';
import { listRounds, openRoundOf } from '../repositories/round-repository';
import { needHandset } from '../services/bench-reading';

/** The round of a handset that is open now, or null. */
export const openRound = openRoundOf;

/** The newest open round, for the way back from other rooms. */
export async function newestOpenRound(): Promise<{ id: string; handset: string } | null> {
  const open = (await listRounds()).find((round) => round.state === 'open');
  return open ? { id: open.id, handset: (await needHandset(open.handsetId)).name } : null;
}
