'use server';
import type { ProofLine } from '@/core/patch/prove-patch';
import { putRecoverySchema, trustImageSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import { trustImage } from '@/server/services/image-judgement';
import { putIntoStock } from '@/server/services/rebuilt-recovery';

/** Records why the person trusts whoever made an image that came ready-made. */
export async function trustImageAction(input: { sha256: string; reason: string }): Promise<Outcome<void>> {
  return outcome(async () => {
    const { sha256, reason } = await trustImageSchema.validate(input);
    await trustImage(sha256, reason);
  });
}

/** Puts a recovery into a stock image, proves it and keeps it; the stock image stays as it is. */
export async function putRecoveryAction(input: {
  stock: string;
  recovery: string;
}): Promise<Outcome<{ readonly sha256: string; readonly proof: readonly ProofLine[] }>> {
  return outcome(async () => {
    const { stock, recovery } = await putRecoverySchema.validate(input);
    const { sha256, proof } = await putIntoStock(stock, recovery);
    return { sha256, proof: proof ?? [] };
  });
}
