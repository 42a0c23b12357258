import 'server-only';
import type { JobView } from '@/contracts/job-view';
import type { ProveAgainView } from '@/contracts/round-view';
import { needsOf } from '@/core/observe/hold';
import { evidenceOf } from '@/core/rounds/answer';
import { provedRoot } from '@/core/rounds/prove-again';
import type { RoundStep } from '@/core/rounds/round';
import { currentStep, NOTHING_SEEN } from '@/core/rounds/round';
import { staysInside } from '@/core/ways/sheet';
import { MISSING_NEXT } from '@/core/words/observe';
import { refusalError } from '@/core/words/refusals';
import { carryOut } from './carry-out';
import { restartAndProve } from './executors/run-updates';
import { commandsOf } from './hand-view';
import { atStep, runStepJob } from './over-link';
import type { RoundContext } from './round-context';
import { roundContext } from './round-context';
import { expectationAt, shownAt } from './shown';
import { ownCommands } from '../services/vocabulary-service';

/* Root once more after a second restart, at the end of a round: by hand, or over the link. */

/** The step to prove once more; null before the end of the round, and where it was done already. */
function toProve({
  steps,
  round,
  subject,
}: Pick<RoundContext, 'steps' | 'round' | 'subject'>): RoundStep | null {
  // a restart would end root that was let in for a while, and show nothing else
  if (round.kind === 'root without unlocking' && !staysInside(subject.ways)) return null;
  const step = round.state === 'open' && currentStep(steps)?.key === 'close' ? provedRoot(steps) : null;
  return step?.evidence.some(({ about }) => about === 'root-lasts') ? null : step;
}

/** What is shown of it by hand; null where nothing is to be proved again. */
export async function proveAgainView(context: RoundContext): Promise<ProveAgainView | null> {
  const step = toProve(context);
  const expectation = step && (await expectationAt(context, step));
  if (!step || !expectation) return null;
  return {
    commands: commandsOf(context, step, await ownCommands(), 'SERIAL'),
    shows: needsOf(expectation).map((what) => MISSING_NEXT[what]),
  };
}

/**
 * What was printed after the second restart.
 * @throws {EternoError} `refused` where it shows no root, or another handset's, `conflict`
 */
export async function proveAgainByHand(roundId: string, version: number, text: string): Promise<void> {
  const context = await roundContext(roundId);
  const step = toProve(context);
  if (!step) throw refusalError({ because: 'another-step' });
  const shown = await shownAt(context, step, text);
  if (shown?.verdict === 'otherwise')
    throw refusalError({
      because: 'shows-otherwise',
      fault: shown.fault?.id ?? null,
      differs: shown.differs.map(({ what }) => what),
    });
  if (shown?.verdict !== 'met') throw refusalError({ because: 'not-shown' });
  await carryOut(roundId, version, () => ({
    do: 'prove-again',
    stepId: step.id,
    evidence: evidenceOf(shown),
    seen: NOTHING_SEEN,
  }));
}

/**
 * Restarts the handset and asks for root once more. Where it is not there any more, the step that proved it is
 * to be done again.
 */
export async function proveAgainOverLink(roundId: string, version: number): Promise<JobView> {
  const context = await atStep(roundId, version);
  const step = toProve(context);
  if (!step) throw refusalError({ because: 'another-step' });
  return runStepJob({ ...context, step }, version, {
    title: 'Restart it and prove root again',
    work: restartAndProve,
    ended: (evidence, seen) => ({ do: 'prove-again', stepId: step.id, evidence, seen }),
  });
}
