import 'server-only';
import type { LogRound, LogStep } from '@/contracts/log-view';
import type { PlannedAbout } from '@/core/rounds/expand-plan';
import { isStepKey, STEP_KINDS } from '@/core/rounds/step-table';
import { listHandsets } from '../repositories/handset-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import type { KeptPlan } from './round-context';
import { evidenceOf } from './round-view';
import { stepAbout } from './step-about';

/** Every round, newest first, with its steps and how long each took. */
export async function logRounds(): Promise<LogRound[]> {
  const [rounds, handsets] = [await listRounds(), await listHandsets()];
  const steps = await stepsOf(rounds.map((round) => round.id));
  return rounds.map((round) => {
    const handset = handsets.find((one) => one.id === round.handsetId);
    const name = handset?.name ?? '';
    const own = steps
      .filter((step) => step.roundId === round.id)
      .flatMap((row): LogStep[] => {
        if (!isStepKey(row.key)) return [];
        const kind = STEP_KINDS[row.key];
        const seconds = row.startedAt !== null && row.endedAt !== null ? (row.endedAt - row.startedAt) / 1000 : null;
        const planned = JSON.parse(row.about) as Partial<PlannedAbout>;
        const profile = {
          rootPartition: handset?.rootPartition ?? 'the image',
          recoveryHome: 'recovery' as const,
          slotCount: handset?.slotCount === 2 ? (2 as const) : (1 as const),
          unlockPath: 'command' as const,
        };
        const about = stepAbout(name, profile, null, round.target, { slot: planned.slot ?? 'a', build: planned.build ?? '' });
        return [
          {
            key: row.key,
            title: kind.text(about).title,
            stage: kind.stage,
            state: row.state,
            actor: row.actor,
            startedAt: row.startedAt,
            seconds,
            expectedSeconds: kind.seconds[0],
            evidence: evidenceOf(row),
          },
        ];
      });
    const { id, title, state, openedAt, closedAt } = round;
    return {
      id,
      title,
      handset: name,
      lane: (JSON.parse(round.plan) as KeptPlan).compared?.find((one) => one.chosen)?.title ?? 'One image, written once',
      state,
      openedAt,
      closedAt,
      seconds: own.reduce((sum, step) => sum + (step.seconds ?? 0), 0),
      steps: own,
    };
  });
}
