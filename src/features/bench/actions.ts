'use server';
import { revalidatePath } from 'next/cache';
import { addHandsetSchema, addTypedHandsetSchema, batchSchema, handsetIdSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import { startBatch } from '@/server/services/batch-service';
import { addHandset, addTypedHandset } from '@/server/services/bench-service';
import { bringBack } from '@/server/services/handset-life';
import { saidNotToStart } from '@/server/rounds/said-state';

/** With nothing to paste: what is typed counts as said. */
export async function addTypedHandsetAction(input: {
  name: string;
  model: string;
  build: string;
}): Promise<Outcome<string>> {
  return checked(addTypedHandsetSchema, input, ({ name, model, build }) =>
    addTypedHandset(name, model, build),
  );
}

/** It does not start: the round that brings its stock image back. */
export async function notStartingAction(handsetId: string): Promise<Outcome<string>> {
  return checked(handsetIdSchema, { handsetId }, (input) => saidNotToStart(input.handsetId));
}

export async function bringBackAction(handsetId: string): Promise<Outcome<void>> {
  const result = await checked(handsetIdSchema, { handsetId }, (input) => bringBack(input.handsetId));
  revalidatePath('/');
  return result;
}

export async function addHandsetAction(input: { name: string; text: string }): Promise<Outcome<string>> {
  return outcome(async () => {
    const { name, text } = await addHandsetSchema.validate(input);
    return addHandset(name, text);
  });
}

/** A round for each of several handsets; those that have no way to it are named, and hold no other back. */
export async function startBatchAction(handsetIds: readonly string[]): Promise<Outcome<void>> {
  const result = await checked(batchSchema, { handsetIds: [...handsetIds] }, (input) =>
    startBatch(input.handsetIds),
  );
  revalidatePath('/');
  return result;
}
