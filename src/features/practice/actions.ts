'use server';
import { headers } from 'next/headers';
import type { InferType } from 'yup';
import { sceneFileSchema, sceneSchema, weighSchema } from '@/contracts/practice-inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import type { Scene } from '@/core/practice/scene';
import { checkScene, readSceneFile } from '@/core/practice/scene';
import { endPractice, openPractice, weighSlips } from '@/server/services/practice-service';

/** The address that this page was asked for at: practice leads back to it. */
const home = async () => (await headers()).get('origin') ?? '/';

export async function openPracticeAction(input: InferType<typeof sceneSchema>): Promise<Outcome<JobView>> {
  return checked(sceneSchema, input, async (scene) => openPractice(checkScene(scene), await home()));
}

export async function endPracticeAction(): Promise<Outcome<void>> {
  return outcome(endPractice);
}

/** @returns the scene of a file that somebody gave */
export async function readSceneAction(text: string): Promise<Outcome<Scene>> {
  return checked(sceneFileSchema, { text }, async (input) =>
    readSceneFile(new TextEncoder().encode(input.text)),
  );
}

export async function weighSlipsAction(on: boolean): Promise<Outcome<void>> {
  return checked(weighSchema, { on }, (input) => weighSlips(input.on));
}
