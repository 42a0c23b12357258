'use server';
import { revalidatePath } from 'next/cache';
import type { InferType } from 'yup';
import { moduleTrialSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { noteModuleTrial } from '@/server/services/module-service';

export async function noteModuleTrialAction(
  input: InferType<typeof moduleTrialSchema>,
): Promise<Outcome<void>> {
  const result = await checked(
    moduleTrialSchema,
    input,
    ({ module, fingerprint, handsetId, outcome, note }) =>
      noteModuleTrial({ module, moduleVersion: null, fingerprint, handsetId, outcome, note }),
  );
  revalidatePath('/modules');
  return result;
}
