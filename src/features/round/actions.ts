'use server';
import { revalidatePath } from 'next/cache';
import type { InferType, Schema } from 'yup';
import {
  againSchema,
  backUpSchema,
  batchOutcomeSchema,
  closePutBackSchema,
  codeSchema,
  confirmChecksSchema,
  handPasteSchema,
  handSeenSchema,
  lookAroundSchema,
  protectSchema,
  putBackSchema,
  roundStepSchema,
  startRoundSchema,
} from '@/contracts/inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import type { Override } from '@/core/gates/check';
import {
  itRestarted,
  putStockBack,
  refuseOffer,
  runStep,
  saidToLoop,
  sendToStepMode,
} from '@/server/rounds/over-link';
import { closePutBackByHand, notePutBack } from '@/server/services/put-back-service';
import type { RoundWish } from '@/server/rounds/opening';
import { replan, startRound } from '@/server/rounds/opening';
import {
  answerAgain,
  backUp,
  closeRound,
  confirmChecks,
  confirmProtect,
  giveCode,
  giveUpRound,
  lookAround,
  pasteAtStep,
  reportBatch,
  sayAtStep,
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
export async function closeAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => closeRound(roundId, version));
}
export async function giveUpAction(at: At): Promise<Outcome<void>> {
  return atStep(roundStepSchema, at, ({ roundId, version }) => giveUpRound(roundId, version));
}
export async function backUpAction(
  at: At,
  what: 'files' | 'in-system' | 'image-level' | 'none',
  note: string,
): Promise<Outcome<void>> {
  return atStep(backUpSchema, { ...at, what, note } as At, (input) =>
    backUp(input.roundId, input.version, input.what, input.note),
  );
}
export async function protectAction(at: At, reason: string): Promise<Outcome<void>> {
  return atStep(protectSchema, { ...at, reason } as At, (input) =>
    confirmProtect(input.roundId, input.version, input.reason),
  );
}
export async function codeAction(at: At, code: string): Promise<Outcome<void>> {
  return atStep(codeSchema, { ...at, code } as At, (input) =>
    giveCode(input.roundId, input.version, input.code),
  );
}
export async function lookAroundAction(
  at: At,
  answers: Record<'data' | 'calls' | 'payments', string>,
): Promise<Outcome<void>> {
  return atStep(lookAroundSchema, { ...at, ...answers }, ({ roundId, version, data, calls, payments }) =>
    lookAround(roundId, version, { data, calls, payments }),
  );
}
export async function confirmChecksAction(at: At, overrides: readonly Override[]): Promise<Outcome<void>> {
  return atStep(confirmChecksSchema, { ...at, overrides } as At, (input) =>
    confirmChecks(input.roundId, input.version, input.overrides),
  );
}
export async function pasteAction(at: At, text: string): Promise<Outcome<void>> {
  return atStep(handPasteSchema, { ...at, text } as At, (input) =>
    pasteAtStep(input.roundId, input.version, input.text),
  );
}
export async function sayAction(at: At, seen: string): Promise<Outcome<void>> {
  return atStep(handSeenSchema, { ...at, seen } as At, (input) =>
    sayAtStep(input.roundId, input.version, input.seen),
  );
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
