'use server';
import { headers } from 'next/headers';
import type { InferType } from 'yup';
import { openSchema, weighSchema } from '@/contracts/practice-inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import { checkScene } from '@/core/practice/scene';
import { endPractice, openPractice, weighSlips } from '@/server/services/practice-service';

/** The address that this page was asked for at: practice leads back to it. */
const home = async () => (await headers()).get('origin') ?? '/';

export async function openPracticeAction(input: InferType<typeof openSchema>): Promise<Outcome<JobView>> {
  return checked(openSchema, input, async ({ scene, handsetId }) =>
    openPractice({ scene: checkScene(scene), handsetId, home: await home() }),
  );
}

export async function endPracticeAction(): Promise<Outcome<void>> {
  return outcome(endPractice);
}

export async function weighSlipsAction(on: boolean): Promise<Outcome<void>> {
  return checked(weighSchema, { on }, (input) => weighSlips(input.on));
}
