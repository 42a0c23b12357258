import 'server-only';
import { isDone } from '@/core/modules/bring-back';
import type { BatchOutcome } from './module-return';
import { batchNow, noteBatch, returnState } from './module-return';
import { expectStep, finishStep } from './round-service';
import { findRound } from '../repositories/round-repository';
import { publish } from './message-bus';

/** By hand: what the start with the batch of now came to. The step is over when every module is settled. @throws {EternoError} `conflict` */
export async function reportBatch(roundId: string, version: number, outcome: BatchOutcome): Promise<void> {
  const context = await expectStep(roundId, version, ['modules-on']);
  const { state, stays } = await returnState(context);
  const after = await noteBatch(context, batchNow(state), outcome);
  if (!isDone(after)) return publish({ type: 'round', roundId, version: (await findRound(roundId))!.version });
  const off = [...stays, ...after.bad];
  await finishStep(context, version, 'hand', [
    { what: `said: it started with ${after.good.join(', ') || 'none'} on`, strength: 'weak' },
    ...(off.length > 0 ? [{ what: `said: stays off, because it loops on this build: ${off.join(', ')}`, strength: 'weak' as const }] : []),
  ]);
}
