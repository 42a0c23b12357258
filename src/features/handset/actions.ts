'use server';
import { revalidatePath } from 'next/cache';
import { pasteFactsSchema, startRoundSchema } from '@/contracts/inputs';
import type { FactPreview } from '@/contracts/handset-view';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import { applyFacts, previewFacts } from '@/server/services/fact-service';
import { startRound } from '@/server/services/round-service';

export async function previewFactsAction(input: { handsetId: string; text: string }): Promise<Outcome<FactPreview>> {
  return outcome(async () => {
    const { handsetId, text } = await pasteFactsSchema.validate(input);
    return previewFacts(handsetId, text);
  });
}

export async function applyFactsAction(input: { handsetId: string; text: string }): Promise<Outcome<null>> {
  return outcome(async () => {
    const { handsetId, text } = await pasteFactsSchema.validate(input);
    await applyFacts(handsetId, text, 'pasted');
    revalidatePath(`/handsets/${handsetId}`);
    return null;
  });
}

export async function startRoundAction(handsetId: string): Promise<Outcome<string>> {
  return outcome(async () => startRound((await startRoundSchema.validate({ handsetId })).handsetId));
}
