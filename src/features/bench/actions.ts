'use server';
import { addHandsetSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import { addHandset } from '@/server/services/bench-service';

export async function addHandsetAction(input: { name: string; text: string }): Promise<Outcome<string>> {
  return outcome(async () => {
    const { name, text } = await addHandsetSchema.validate(input);
    return addHandset(name, text);
  });
}
