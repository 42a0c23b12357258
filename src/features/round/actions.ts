'use server';
import { revalidatePath } from 'next/cache';
import { confirmChecksSchema, handPasteSchema, handSeenSchema, roundStepSchema, writeSchema } from '@/contracts/inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import type { Override } from '@/core/gates/check';
import { enterBootloader, proveOverLink, readFactsOverLink, restartOverLink, sendToBootloader, writeOverLink } from '@/server/services/link-steps';
import { closeRound, confirmChecks, giveUpRound, pasteAtStep, sayAtStep } from '@/server/services/round-service';

interface At {
  readonly roundId: string;
  readonly version: number;
}

/** Runs a step's action for the round as the page saw it; the page is made anew whatever came of it. */
async function atStep<T>(at: At, work: (at: At) => Promise<T>): Promise<Outcome<T>> {
  const result = await outcome(async () => work(await roundStepSchema.validate(at)));
  revalidatePath(`/rounds/${at.roundId}`);
  return result;
}

export async function readFactsAction(at: At): Promise<Outcome<void>> {
  return atStep(at, ({ roundId, version }) => readFactsOverLink(roundId, version));
}
export async function enterBootloaderAction(at: At): Promise<Outcome<void>> {
  return atStep(at, ({ roundId, version }) => enterBootloader(roundId, version));
}
export async function sendToBootloaderAction(at: At): Promise<Outcome<void>> {
  return atStep(at, ({ roundId, version }) => sendToBootloader(roundId, version));
}
export async function restartAction(at: At): Promise<Outcome<JobView>> {
  return atStep(at, ({ roundId, version }) => restartOverLink(roundId, version));
}
export async function proveAction(at: At): Promise<Outcome<JobView>> {
  return atStep(at, ({ roundId, version }) => proveOverLink(roundId, version));
}
export async function closeAction(at: At): Promise<Outcome<void>> {
  return atStep(at, ({ roundId, version }) => closeRound(roundId, version));
}
export async function giveUpAction(at: At): Promise<Outcome<void>> {
  return atStep(at, ({ roundId, version }) => giveUpRound(roundId, version));
}
export async function writeAction(at: At, which: 'patched' | 'stock'): Promise<Outcome<JobView>> {
  return atStep(at, async () => {
    const input = await writeSchema.validate({ ...at, which });
    return writeOverLink(input.roundId, input.version, input.which);
  });
}
export async function confirmChecksAction(at: At, overrides: readonly Override[]): Promise<Outcome<void>> {
  return atStep(at, async () => {
    const input = await confirmChecksSchema.validate({ ...at, overrides });
    return confirmChecks(input.roundId, input.version, input.overrides);
  });
}
export async function pasteAction(at: At, text: string): Promise<Outcome<void>> {
  return atStep(at, async () => {
    const input = await handPasteSchema.validate({ ...at, text });
    return pasteAtStep(input.roundId, input.version, input.text);
  });
}
export async function sayAction(at: At, seen: string): Promise<Outcome<void>> {
  return atStep(at, async () => {
    const input = await handSeenSchema.validate({ ...at, seen });
    return sayAtStep(input.roundId, input.version, input.seen);
  });
}
