'use server';
import type { InferType } from 'yup';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { beginRepairSchema, closeCaseSchema, markSchema, readAnswersSchema } from '@/contracts/rescue-inputs';
import type { RescueMark } from '@/contracts/rescue-view';
import type { ReadAnswer } from '@/core/rescue/read-answers';
import { beginRepair } from '@/server/rounds/rescue-round';
import type { Closed } from '@/server/services/rescue-cases';
import { closeCase, markIt, readAnswers } from '@/server/services/rescue-cases';

/** @returns what the pasted text, or the handset itself, answers */
export async function readAnswersAction(
  input: InferType<typeof readAnswersSchema>,
): Promise<Outcome<readonly ReadAnswer[]>> {
  return checked(readAnswersSchema, input, ({ handsetId, text, symptoms }) =>
    readAnswers(handsetId, text, symptoms),
  );
}

export async function closeCaseAction(input: InferType<typeof closeCaseSchema>): Promise<Outcome<Closed>> {
  return checked(closeCaseSchema, input, closeCase);
}

export async function markAction(input: InferType<typeof markSchema>): Promise<Outcome<void>> {
  return checked(markSchema, input, ({ handsetId, mark }) => markIt(handsetId, mark as RescueMark));
}

/** @returns the page at which the repair goes on */
export async function beginRepairAction(
  input: InferType<typeof beginRepairSchema>,
): Promise<Outcome<string>> {
  return checked(beginRepairSchema, input, ({ handsetId, repair, state }) =>
    beginRepair(handsetId, repair, state),
  );
}
