'use server';
import type { InferType } from 'yup';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { beginRepairSchema, closeCaseSchema } from '@/contracts/rescue-inputs';
import { beginRepair } from '@/server/rounds/rescue-round';
import { closeCase } from '@/server/services/rescue-service';

export async function closeCaseAction(input: InferType<typeof closeCaseSchema>): Promise<Outcome<void>> {
  return checked(closeCaseSchema, input, closeCase);
}

/** @returns the page at which the repair goes on */
export async function beginRepairAction(
  input: InferType<typeof beginRepairSchema>,
): Promise<Outcome<string>> {
  return checked(beginRepairSchema, input, ({ handsetId, repair, symptoms }) =>
    beginRepair(handsetId, repair, symptoms),
  );
}
