'use server';
import { trustImageSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import { trustImage } from '@/server/services/image-judgement';

/** Records why the person trusts whoever made an image that came ready-made. */
export async function trustImageAction(input: { sha256: string; reason: string }): Promise<Outcome<void>> {
  return outcome(async () => {
    const { sha256, reason } = await trustImageSchema.validate(input);
    await trustImage(sha256, reason);
  });
}
