import 'server-only';
import type { LogRound, LogStep } from '@/contracts/log-view';
import { LANE_STEPS, ONE_IMAGE_ONCE } from '@/core/lanes/one-image-once';
import { listHandsets } from '../repositories/handset-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import { evidenceOf } from './round-view';

/** Every round, newest first, with its steps and how long each took. */
export async function logRounds(): Promise<LogRound[]> {
  const [rounds, handsets] = [await listRounds(), await listHandsets()];
  const steps = await stepsOf(rounds.map((round) => round.id));
  return rounds.map((round) => {
    const handset = handsets.find((one) => one.id === round.handsetId);
    const name = handset?.name ?? '';
    const own = steps
      .filter((step) => step.roundId === round.id)
      .map((row): LogStep => {
        const step = LANE_STEPS.find((one) => one.key === row.key)!;
        const seconds = row.startedAt !== null && row.endedAt !== null ? (row.endedAt - row.startedAt) / 1000 : null;
        const title = step.text({ handset: name, partition: handset?.rootPartition ?? 'the image', slot: '', build: 'the installed build' }).title;
        return {
          key: row.key,
          title,
          stage: step.stage,
          state: row.state,
          actor: row.actor,
          startedAt: row.startedAt,
          seconds,
          expectedSeconds: step.seconds[0],
          evidence: evidenceOf(row),
        };
      });
    const { id, title, state, openedAt, closedAt } = round;
    return {
      id,
      title,
      handset: name,
      lane: ONE_IMAGE_ONCE.title,
      state,
      openedAt,
      closedAt,
      seconds: own.reduce((sum, step) => sum + (step.seconds ?? 0), 0),
      steps: own,
    };
  });
}
