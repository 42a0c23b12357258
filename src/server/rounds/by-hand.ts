import 'server-only';
import type { BackupPart } from '@/core/words/backups';
import type { HandCommand, ShownView } from '@/contracts/round-view';
import { toEternoError } from '@/core/errors';
import type { Check, Override } from '@/core/gates/check';
import { afterBatch } from '@/core/modules/bring-back';
import type { Answer, Looked, LookedAnswer } from '@/core/rounds/command';
import type { AppSeen, BackupNote, RoundStep, SlotReport } from '@/core/rounds/round';
import { currentStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import { signOff } from '@/core/rounds/sign-off';
import { refusalError } from '@/core/words/refusals';
import * as say from '@/core/words/step-evidence';
import { inTransaction } from '../db/connection';
import type { ReadText } from '../services/fact-service';
import { applyFacts, readText } from '../services/fact-service';
import { openPutBacks } from '../services/put-back-service';
import { buildParts } from './build-parts';
import { carryOut } from './carry-out';
import { batchNow, returnState } from './module-return';
import { freshPlanIfAny } from './opening';
import type { RoundContext } from './round-context';
import { forgetHeld } from './held-package';
import { rescueState } from './rescue';
import { imageOf, partitionFor, roundContext } from './round-context';
import { commandsWithSerial, shownView } from './hand-view';
import { readElsewhere } from './read-elsewhere';
import { shownAt } from './shown';
import { mayHaveWritten } from './step-writes';
import { gatedStep, gatesOf } from './round-gates';
import { codeAtStep } from './unlock-token';

/* What a person does at a round, by hand and by word: each is one command. */

/** The checks before a step; none where there is no step to do. */
const checksOf = async (context: RoundContext, step: RoundStep | null): Promise<readonly Check[]> =>
  step ? gatesOf(context, step) : [];

/** What a person says of the step to do now, and what they pasted to show it; empty where they pasted nothing. */
export interface SaidAtStep {
  readonly answer: Answer;
  readonly text: string;
}

/** The facts that a text holds; null where it holds none. */
function factsIn(text: string): ReadText | null {
  try {
    return readText(text);
  } catch (thrown) {
    if (toEternoError(thrown).code === 'bad-field') return null;
    throw thrown;
  }
}

/**
 * Answers the step to do now. What the handset printed of itself is kept as facts together with the step; of
 * another handset nothing is kept.
 * @throws {EternoError} `refused` where the text is of another handset, or shows otherwise than it was said
 */
export async function answerAtStep(
  roundId: string,
  version: number,
  { answer, text }: SaidAtStep,
): Promise<void> {
  await inTransaction(() =>
    carryOut(roundId, version, async (context) => {
      const step = currentStep(context.steps);
      const shown = step && (await shownAt(context, step, text));
      const isFacts = text.trim() !== '' && factsIn(text) !== null;
      if (isFacts) await applyFacts(context.handset.id, text, 'pasted');
      const reads = step !== null && DEEDS[step.key].plansAnew === true && answer.how !== 'otherwise';
      return {
        do: 'answer',
        answer,
        shown,
        checks: answer.how === 'as-described' ? await checksOf(context, step) : [],
        slots: step ? expectedOnSlots(context, step) : [],
        doubt: step ? mayHaveWritten(context, step) : [],
        buildKnown: context.facts.fingerprint !== null,
        fresh: reads ? await freshPlanIfAny(isFacts ? await roundContext(roundId) : context) : null,
      };
    }),
  );
}

/** The step to do now. @throws {EternoError} `conflict` where there is none */
async function stepOf(
  roundId: string,
): Promise<{ readonly context: RoundContext; readonly step: RoundStep }> {
  const context = await roundContext(roundId);
  const step = currentStep(context.steps);
  if (!step) throw refusalError({ because: 'another-step' });
  return { context, step };
}

/**
 * What was pasted so far, line by line, as it would count at the step to do now; null where nothing of it can
 * be shown. Nothing is kept.
 */
export async function showAtStep(roundId: string, text: string): Promise<ShownView | null> {
  const { context, step } = await stepOf(roundId);
  const shown = await shownAt(context, step, text);
  return shown && shownView(shown, text);
}

/** The commands of the step to do now with the serial in them, for the person who asks for it. */
export async function commandsAtStep(roundId: string): Promise<HandCommand[]> {
  const { context, step } = await stepOf(roundId);
  return commandsWithSerial(context, step);
}

/** What lies on the partitions of a step if it went as described: one image, or those of its build. */
function expectedOnSlots(context: RoundContext, step: RoundStep): SlotReport[] {
  const image = imageOf(context, step);
  const parts = new Map(buildParts(context, step).map((one) => [one.partition, one]));
  const only = image && partitionFor(context, step, image);
  return mayHaveWritten(context, step).flatMap(({ partition, slot }): SlotReport[] => {
    const lies = partition === only ? image : parts.get(partition);
    return lies?.sha256
      ? [{ partition, slot, sha256: lies.sha256, certainty: 'predicted', reason: say.SAID_TO_BE_WRITTEN }]
      : [];
  });
}

/** The code that came by mail, kept with the handset's private values. */
export async function giveCode(roundId: string, version: number, code: string): Promise<void> {
  const read = await codeAtStep(roundId, code);
  await carryOut(roundId, version, () => ({ do: 'code', code: read }));
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
  parts: readonly BackupPart[],
): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'back-up', what, note, parts }));
}

/** Before the handset is touched: the rescue page was downloaded, or a reason says why not. */
export async function confirmProtect(roundId: string, version: number, reason: string): Promise<void> {
  await carryOut(roundId, version, async () => ({
    do: 'protect',
    rescuePage: (await rescueState(await roundContext(roundId))).at !== null,
    reason,
  }));
}

/** What only the person can see: one line each for data, calls, payments. */
export async function lookAround(
  roundId: string,
  version: number,
  answers: Readonly<Record<Looked, LookedAnswer>>,
  note = '',
  apps: readonly AppSeen[] = [],
): Promise<void> {
  await carryOut(roundId, version, () => ({ do: 'look-around', answers, note, apps }));
}

/** What the start with the batch of modules of now came to. The step is over when every module is settled. */
export async function reportBatch(
  roundId: string,
  version: number,
  outcome: 'started' | 'looped',
): Promise<void> {
  await carryOut(roundId, version, async (context) => {
    const { state: before, stays, next } = await returnState(context);
    const batch = batchNow({ next });
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
 * Ends the round: as reached, or as not reached where the person says so; what is changed for a while is
 * undone or taken along.
 * @param carryOver temporary changes that stay open, by their ids
 * @throws {EternoError} `refused` naming what is not reached, or not undone
 */
export async function closeRound(
  roundId: string,
  version: number,
  {
    notReached,
    carryOver,
  }: { readonly notReached: boolean; readonly carryOver: readonly string[] } = REACHED,
): Promise<void> {
  await carryOut(roundId, version, async (context) => ({
    do: 'close',
    claims: signOff(
      context.round,
      context.steps,
      (await openPutBacks(context.handset.id)).map(({ what }) => what),
      readElsewhere(context),
    ),
    notReached,
    carryOver,
  }));
}
const REACHED = { notReached: false, carryOver: [] };

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
  await forgetHeld(roundId);
}
