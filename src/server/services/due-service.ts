import 'server-only';
import type { Due } from '@/core/schedule/dues';
import { duesOf } from '@/core/schedule/dues';
import { readBench, readSubjects } from './bench-reading';
import { waitOf } from './calendar-service';
import { now } from './clock';
import { nextBuild } from '@/core/bench/judgements';

/** What is due on the whole bench, and when the next wait ends. */
export async function duesNow(): Promise<{ readonly dues: readonly Due[]; readonly nextAt: number | null }> {
  const [bench, subjects] = [await readBench(), await readSubjects()];
  const inputs = subjects.map((subject) => {
    const { handset, history } = subject;
    const wait = waitOf(subject, bench);
    return {
      id: handset.id,
      name: handset.name,
      clocks: history.openClocks.map(({ id, kind, endsAt }) => ({ id, what: kind, endsAt })),
      rule: history.waitingRule,
      wait: wait && { ...wait, buildId: nextBuild(subject, bench)!.buildId },
      putBacks: history.openPutBacks,
      inRound: history.rounds.some(({ state }) => state === 'open'),
    };
  });
  return duesOf(inputs, now());
}
