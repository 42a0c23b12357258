import 'server-only';
import { toEternoError } from '@/core/errors';
import { listRounds } from '../repositories/round-repository';
import { oneAtATime } from '../services/one-at-a-time';
import { carryOut } from './carry-out';
import { provedOf } from './proofs';
import { roundContext } from './round-context';

/**
 * Looks at every open round and marks the steps done whose result the vault already holds. One that keeps
 * changing is left for the next time.
 */
export async function settleRounds(): Promise<void> {
  for (const { id, state } of await listRounds()) if (state === 'open') await settleRound(id);
}

/** The same for one round. */
export const settleRound = (id: string): Promise<void> => oneAtATime(`settle ${id}`, () => settle(id));

async function settle(roundId: string): Promise<void> {
  const context = await roundContext(roundId);
  const { steps, round } = context;
  const next = steps.find(({ state }) => state !== 'done');
  // most of what comes into the vault is no step of most rounds
  if (!next || next.state === 'running' || provedOf(context, next, steps, round.target) === null) return;
  await carryOut(roundId, null, () => ({ do: 'settle' })).catch((thrown: unknown) => {
    if (toEternoError(thrown).code !== 'conflict') throw thrown;
  });
}
