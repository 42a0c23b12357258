'use server';
import { addHandsetSchema, startRoundSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import { addHandset } from '@/server/services/bench-service';
import { startRound } from '@/server/services/round-service';

export async function startRoundAction(handsetId: string): Promise<Outcome<string>> {
  return outcome(async () => startRound((await startRoundSchema.validate({ handsetId })).handsetId));
}

export async function addHandsetAction(input: { name: string; text: string }): Promise<Outcome<string>> {
  return outcome(async () => {
    const { name, text } = await addHandsetSchema.validate(input);
    return addHandset(name, text);
  });
}
