'use server';
import { revalidatePath } from 'next/cache';
import { addHandsetSchema, batchSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import { startBatch } from '@/server/services/batch-service';
import { addHandset } from '@/server/services/bench-service';

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
