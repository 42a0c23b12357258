'use server';
import { revalidatePath } from 'next/cache';
import type { InferType } from 'yup';
import { entrySchema, ownDaySchema, waitingRuleSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { addEntry, removeEntry, saveWaitingRule } from '@/server/services/calendar-service';

async function made<T>(work: Promise<Outcome<T>>): Promise<Outcome<T>> {
  const result = await work;
  revalidatePath('/calendar');
  return result;
}

export async function saveRuleAction(input: InferType<typeof waitingRuleSchema>): Promise<Outcome<void>> {
  return made(
    checked(waitingRuleSchema, input, ({ handsetId, ...rule }) => saveWaitingRule(handsetId, rule)),
  );
}
export async function addDayAction(input: InferType<typeof ownDaySchema>): Promise<Outcome<void>> {
  return made(checked(ownDaySchema, input, ({ what, from, to, quiet }) => addEntry(what, from, to, quiet)));
}
export async function removeDayAction(uid: string): Promise<Outcome<void>> {
  return made(checked(entrySchema, { uid }, (input) => removeEntry(input.uid)));
}
