'use server';
import type { InferType } from 'yup';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { closeCaseSchema } from '@/contracts/rescue-inputs';
import { closeCase } from '@/server/services/rescue-service';

export async function closeCaseAction(input: InferType<typeof closeCaseSchema>): Promise<Outcome<void>> {
  return checked(closeCaseSchema, input, closeCase);
}
