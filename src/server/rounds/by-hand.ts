import 'server-only';
import { EternoError } from '@/core/errors';
import type { Check, Override } from '@/core/gates/check';
import { afterBatch } from '@/core/modules/bring-back';
import type { Evidence } from '@/core/rounds/evidence';
import type { BackupNote, RoundStep } from '@/core/rounds/round';
import { currentStep } from '@/core/rounds/round';
import { signOff } from '@/core/rounds/sign-off';
import * as say from '@/core/words/step-evidence';
import { inTransaction } from '../db/connection';
import { listEvents } from '../repositories/event-repository';
import { applyFacts } from '../services/fact-service';
import { openPutBacks } from '../services/put-back-service';
import { carryOut } from './carry-out';
import { batchNow, returnState } from './module-return';
import { freshPlanIfAny } from './opening';
import type { RoundContext } from './round-context';
import { imageOf, partitionFor, roundContext, slotOf } from './round-context';
import { gatedStep, gatesOf } from './round-gates';

/* What a person does at a round, by hand and by word: each is one command. */

/** The checks before a step; none where there is no step to do. */
const checksOf = async (context: RoundContext, step: RoundStep | null): Promise<readonly Check[]> =>
  step ? gatesOf(context, step) : [];

/**
 * A dump or bootloader variables that the person pasted at this step; they and the step are kept together.
 */
export async function pasteAtStep(roundId: string, version: number, text: string): Promise<void> {
  await inTransaction(() =>
    carryOut(roundId, version, async (context) => {
      const facts = await applyFacts(context.handset.id, text, 'pasted');
      const asksForBuild = currentStep(context.steps)?.key === 'read-facts';
      if (asksForBuild && facts.fingerprint === null)
        throw new EternoError(
          'bad-field',
          'The text names no build: paste the property dump of the running system.',
        );
      const evidence: Evidence[] = [{ what: say.pasted(facts.buildId, facts.currentSlot), strength: 'weak' }];
      if (facts.serial !== null) evidence.push({ what: say.OWN_SERIAL, strength: 'strong' });
      return {
        do: 'paste',
        evidence,
        fresh: asksForBuild ? await freshPlanIfAny(await roundContext(roundId)) : null,
      };
    }),
  );
}

/** What the person says they saw. Weak evidence, and marked so. */
export async function sayAtStep(roundId: string, version: number, words: string): Promise<void> {
  await carryOut(roundId, version, async (context) => {
    const step = currentStep(context.steps);
    const image = step && imageOf(context, step);
    const partition = step && image && partitionFor(context, step, image);
    const written = image && partition !== null && step!.planned.writes;
    return {
      do: 'say',
      words,
      checks: await checksOf(context, step),
      slots: written
        ? [
            {
              slot: slotOf(context, step!),
              partition,
              sha256: image.sha256,
              certainty: 'predicted',
              reason: say.SAID_TO_BE_WRITTEN,
            },
          ]
        : [],
    };
  });
}

/** The code that came by mail, kept with the handset's private values. */
export async function giveCode(roundId: string, version: number, code: string): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'code', code: code.trim() }));
}

/** Lets the round past its checks, if each holds or may be overridden and was, with a reason. */
export async function confirmChecks(
  roundId: string,
  version: number,
  overrides: readonly Override[],
): Promise<void> {
  await carryOut(roundId, version, async (context) => {
    const step = currentStep(context.steps);
    const gated = step && gatedStep(context, step);
    return { do: 'confirm', checks: gated ? await gatesOf(context, gated) : null, overrides };
  });
}

/** What was taken off the handset before it is erased, kept with its records; `none` with a reason. */
export async function backUp(
  roundId: string,
  version: number,
  what: BackupNote['what'] | 'none',
  note: string,
): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'back-up', what, note }));
}

/** Before the handset is touched: the rescue page was downloaded, or a reason says why not. */
export async function confirmProtect(roundId: string, version: number, reason: string): Promise<void> {
  await carryOut(roundId, version, async () => ({
    do: 'protect',
    rescuePage: (await rescueAt(roundId)) !== null,
    reason,
  }));
}

/** When the rescue page of a round was downloaded last. */
export async function rescueAt(roundId: string): Promise<number | null> {
  return (await listEvents({ kind: 'rescue-page', roundId })).at(-1)?.at ?? null;
}

/** What only the person can see: one line each for data, calls, payments. */
export async function lookAround(
  roundId: string,
  version: number,
  answers: Readonly<Record<'data' | 'calls' | 'payments', string>>,
): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'look-around', answers }));
}

/** What the start with the batch of modules of now came to. The step is over when every module is settled. */
export async function reportBatch(
  roundId: string,
  version: number,
  outcome: 'started' | 'looped',
): Promise<void> {
  await carryOut(roundId, version, async (context) => {
    const { state: before, stays } = await returnState(context);
    const batch = batchNow(before);
    return {
      do: 'batch',
      batch,
      outcome,
      before,
      after: afterBatch(before, batch, outcome),
      stays,
      byHand: true,
    };
  });
}

/**
 * Ends the round, if every claim has its evidence.
 * @throws {EternoError} `refused` naming the claims without
 */
export async function closeRound(roundId: string, version: number): Promise<void> {
  await carryOut(roundId, version, async ({ steps, round, handset }) => {
    const claims = signOff(
      steps,
      (await openPutBacks(handset.id)).map(({ what }) => what),
    );
    const root = claims.find(({ id }) => id === 'root-works');
    const stock = round.kind === 'return to stock' || round.kind === 'lock again';
    return {
      do: 'close',
      claims,
      rootProved: root ? (root.missing === null ? 'yes' : 'no') : stock ? 'gone' : 'not asked',
    };
  });
}

/** What the person says of a round after it. @throws {EternoError} `conflict` for one that was not closed */
export async function answerAgain(
  roundId: string,
  version: number,
  again: 'yes' | 'no',
  note: string,
): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'again', again, note }));
}

/** Ends the round where it stands; the log keeps what was done. */
export async function giveUpRound(roundId: string, version: number): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'give-up' }));
}
