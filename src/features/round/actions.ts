'use server';
import { revalidatePath } from 'next/cache';
import type { InferType, Schema } from 'yup';
import {
  closePutBackSchema,
  handsetIdSchema,
  putBackSchema,
  startRoundSchema,
  typeFactSchema,
} from '@/contracts/inputs';
import {
  againSchema,
  backUpSchema,
  batchOutcomeSchema,
  codeSchema,
  confirmChecksSchema,
  closeSchema,
  handAnswerSchema,
  handShownSchema,
  lookAroundSchema,
  protectSchema,
  roundStepSchema,
  tokenSchema,
} from '@/contracts/round-inputs';
import { cablePageSchema } from '@/contracts/cable-inputs';
import type { JobView } from '@/contracts/job-view';
import { sayWaySchema } from '@/contracts/way-inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import type { HandCommand, ShownView } from '@/contracts/round-view';
import type { Override } from '@/core/gates/check';
import type { Looked, LookedAnswer } from '@/core/rounds/command';
import type { AppSeen } from '@/core/rounds/round';
import type { UnlockToken } from '@/core/unlocking/token';
import type { BackupKind, BackupPart } from '@/core/words/backups';
import type { OutcomeId } from '@/core/words/outcomes';
import {
  itRestarted,
  putStockBack,
  refuseOffer,
  runStep,
  saidToLoop,
  sendToStepMode,
} from '@/server/rounds/over-link';
import { needFree } from '@/server/services/cable-desk';
import { agreeToCable, needCable } from '@/server/services/cable-service';
import { tokenAtStep } from '@/server/rounds/unlock-token';
import { askHint } from '@/server/services/practice-service';
import { typeFact } from '@/server/services/fact-service';
import { sayWayAt } from '@/server/services/say-way';
import { closePutBackByHand, notePutBack } from '@/server/services/put-back-service';
import type { RoundWish } from '@/server/rounds/opening';
import { planStockBack, replan, startRound } from '@/server/rounds/opening';
import { proveAgainByHand, proveAgainOverLink } from '@/server/rounds/prove-again';
import {
  answerAgain,
  answerAtStep,
  backUp,
  closeRound,
  commandsAtStep,
  confirmChecks,
  confirmProtect,
  giveCode,
  giveUpRound,
  lookAround,
  reportBatch,
  showAtStep,
} from '@/server/rounds/by-hand';

interface At {
  readonly roundId: string;
  readonly version: number;
}

/** Runs a step's action for the round as the page saw it; the page is made anew whatever came of it. */
async function atStep<S extends Schema, T>(
  schema: S,
  input: At,
  work: (value: InferType<S>) => Promise<T>,
): Promise<Outcome<T>> {
  const result = await checked(schema, input, work);
  revalidatePath(`/rounds/${input.roundId}`);
  return result;
}

export async function startRoundAction(wish: RoundWish): Promise<Outcome<string>> {
  return checked(startRoundSchema, wish, ({ target, lane, ...rest }) =>
    startRound({ ...rest, target, lane }),
  );
}
export async function runStepAction(at: At): Promise<Outcome<JobView>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => runStep(roundId, version));
}
/** Keeps what a person says of the handset, at the step that asks for it. */
export async function sayFactAction(
  roundId: string,
  input: InferType<typeof typeFactSchema>,
): Promise<Outcome<void>> {
  const result = await checked(typeFactSchema, input, ({ handsetId, key, value }) =>
    typeFact(handsetId, key, value),
  );
  revalidatePath(`/rounds/${roundId}`);
  return result;
}
export async function answerAgainAction(at: At, again: 'yes' | 'no', note: string): Promise<Outcome<void>> {
  const input = { ...at, again, note };
  return atStep(againSchema, input, ({ roundId, version, ...answer }) =>
    answerAgain(roundId, version, answer.again, answer.note),
  );
}
export async function reportBatchAction(at: At, outcome: 'started' | 'looped'): Promise<Outcome<void>> {
  const input = { ...at, outcome };
  return atStep(batchOutcomeSchema, input, ({ roundId, version, outcome: came }) =>
    reportBatch(roundId, version, came),
  );
}
export async function sendAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => sendToStepMode(roundId, version));
}
/** The person agrees to the browser's cable for a handset: it is theirs, and they read what can happen. */
export async function agreeToCableAction(handsetId: string): Promise<Outcome<void>> {
  return checked(handsetIdSchema, { handsetId }, (input) => agreeToCable(input.handsetId));
}
/** Whether a page may hold this handset's cable now, with the reason where it may not. */
export async function cableReadyAction(handset: string, page: string): Promise<Outcome<void>> {
  return checked(cablePageSchema, { handset, page }, async (input) => {
    await needCable(input.handset);
    needFree(input.handset, input.page);
  });
}
/** In practice: how the step is done was asked for. */
export async function askHintAction(at: At): Promise<Outcome<void>> {
  return checked(roundStepSchema, at, ({ roundId }) => askHint(roundId));
}
export async function saidToLoopAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId }) => saidToLoop(roundId));
}
export async function stockBackAction(at: At): Promise<Outcome<JobView>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => putStockBack(roundId, version));
}
export async function refuseOfferAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => refuseOffer(roundId, version));
}
export async function itRestartedAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => itRestarted(roundId, version));
}
export async function replanAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => replan(roundId, version));
}
/** Ends the round: as reached, or as not; what is still changed for a while is taken along by name. */
export async function closeAction(
  at: At,
  how: { readonly notReached: boolean; readonly carryOver: readonly string[] },
): Promise<Outcome<void>> {
  const input = { ...at, ...how };
  return atStep(closeSchema, input, ({ roundId, version, notReached, carryOver }) =>
    closeRound(roundId, version, { notReached, carryOver }),
  );
}
export async function giveUpAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => giveUpRound(roundId, version));
}
export async function backUpAction(
  at: At,
  what: BackupKind | 'none',
  note: string,
  parts: readonly BackupPart[],
): Promise<Outcome<void>> {
  return atStep(backUpSchema, { ...at, what, note, parts } as At, (input) =>
    backUp(input.roundId, input.version, input.what, input.note, input.parts),
  );
}
export async function protectAction(at: At, reason: string): Promise<Outcome<void>> {
  return atStep(protectSchema, { ...at, reason } as At, (input) =>
    confirmProtect(input.roundId, input.version, input.reason),
  );
}
/** The token that its maker wants, in one piece: read over the link, or out of what was pasted. */
export async function tokenAction(input: At & { text: string | null }): Promise<Outcome<UnlockToken>> {
  return checked(tokenSchema, input, ({ roundId, version, text }) => tokenAtStep(roundId, version, text));
}
export async function codeAction(at: At, code: string): Promise<Outcome<void>> {
  return atStep(codeSchema, { ...at, code } as At, (input) =>
    giveCode(input.roundId, input.version, input.code),
  );
}
export async function lookAroundAction(
  at: At,
  answers: Readonly<Record<Looked, LookedAnswer>>,
  note: string,
  apps: readonly AppSeen[],
): Promise<Outcome<void>> {
  const input = { ...at, ...answers, note, apps: [...apps] };
  return atStep(lookAroundSchema, input, ({ roundId, version, note: words, apps: seen, ...said }) =>
    lookAround(roundId, version, said, words, seen),
  );
}
export async function confirmChecksAction(at: At, overrides: readonly Override[]): Promise<Outcome<void>> {
  return atStep(confirmChecksSchema, { ...at, overrides } as At, (input) =>
    confirmChecks(input.roundId, input.version, input.overrides),
  );
}
/** What a person says of a step, and what they pasted to show it. */
export interface HandAnswer {
  readonly how: 'as-described' | 'otherwise' | 'cannot-tell';
  readonly outcome?: OutcomeId;
  readonly note: string;
  readonly text: string;
}
export async function answerAction(at: At, said: HandAnswer): Promise<Outcome<void>> {
  return atStep(handAnswerSchema, { ...at, ...said }, ({ roundId, version, how, outcome, note, text }) =>
    answerAtStep(roundId, version, {
      answer: how === 'otherwise' ? { how, outcome: outcome ?? 'own-words', note } : { how, note },
      text,
    }),
  );
}
/** What was pasted so far, line by line; nothing is kept. */
export async function showAction(at: At, text: string): Promise<Outcome<ShownView | null>> {
  return checked(handShownSchema, { ...at, text }, (input) => showAtStep(input.roundId, input.text));
}
export async function commandsAction(at: At): Promise<Outcome<readonly HandCommand[]>> {
  return checked(roundStepSchema, at, ({ roundId }) => commandsAtStep(roundId));
}
export async function planStockBackAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => planStockBack(roundId, version));
}
export async function proveAgainAction(at: At, text: string): Promise<Outcome<void>> {
  return atStep(handShownSchema, { ...at, text } as At, (input) =>
    proveAgainByHand(input.roundId, input.version, input.text),
  );
}
export async function proveAgainByLinkAction(at: At): Promise<Outcome<JobView>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => proveAgainOverLink(roundId, version));
}
export async function notePutBackAction(
  handsetId: string,
  roundId: string,
  what: string,
): Promise<Outcome<void>> {
  const result = await checked(putBackSchema, { handsetId, what }, (input) =>
    notePutBack(input.handsetId, roundId, input.what),
  );
  revalidatePath(`/rounds/${roundId}`);
  return result;
}
export async function closePutBackAction(
  handsetId: string,
  roundId: string,
  putBackId: string,
  how: string,
): Promise<Outcome<void>> {
  const result = await checked(closePutBackSchema, { handsetId, putBackId, how }, (input) =>
    closePutBackByHand(input.handsetId, input.putBackId, input.how),
  );
  revalidatePath(`/rounds/${roundId}`);
  return result;
}

/** How it is done on this model, where a step says it otherwise. */
export async function sayWayAction(input: InferType<typeof sayWaySchema>): Promise<Outcome<void>> {
  return checked(sayWaySchema, input, sayWayAt);
}
