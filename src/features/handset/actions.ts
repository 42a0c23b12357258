'use server';
import type { InferType } from 'yup';
import type { FactPreview, RecognisedFile } from '@/contracts/handset-view';
import {
  backupNoteSchema,
  chooseFactSchema,
  clockSchema,
  dependencySchema,
  edgeSchema,
  keepReadBackSchema,
  pasteFactsSchema,
  recogniseSchema,
  secretSchema,
  slotByHandSchema,
  handsetIdSchema,
  typeFactSchema,
} from '@/contracts/inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked } from '@/contracts/outcome';
import { applyFacts, chooseFact, previewFacts, typeFact } from '@/server/services/fact-service';
import { readFactsFromLink } from '@/server/services/link-facts';
import { keepReadBack, readBackOverLink, recogniseReadBack } from '@/server/services/read-back-service';
import type { DescribedFile } from '@/server/services/read-back-service';
import {
  keepSecret,
  noteBackup,
  noteClock,
  noteDependency,
  noteEdge,
} from '@/server/services/record-service';
import { setSlotByHand } from '@/server/services/slot-service';

export async function previewFactsAction(input: {
  handsetId: string;
  text: string;
}): Promise<Outcome<FactPreview>> {
  return checked(pasteFactsSchema, input, ({ handsetId, text }) => previewFacts(handsetId, text));
}

export async function applyFactsAction(input: {
  handsetId: string;
  text: string;
  source: 'pasted' | 'file';
}): Promise<Outcome<void>> {
  return checked(
    pasteFactsSchema,
    input,
    async ({ handsetId, text, source }) => void (await applyFacts(handsetId, text, source)),
  );
}

export async function readFactsAction(handsetId: string): Promise<Outcome<'system' | 'bootloader'>> {
  return checked(handsetIdSchema, { handsetId }, (input) => readFactsFromLink(input.handsetId));
}

export async function chooseFactAction(input: InferType<typeof chooseFactSchema>): Promise<Outcome<void>> {
  return checked(chooseFactSchema, input, ({ handsetId, key, value, reason }) =>
    chooseFact(handsetId, key, value, reason),
  );
}

export async function typeFactAction(input: InferType<typeof typeFactSchema>): Promise<Outcome<void>> {
  return checked(typeFactSchema, input, ({ handsetId, key, value }) => typeFact(handsetId, key, value));
}

export async function slotByHandAction(input: InferType<typeof slotByHandSchema>): Promise<Outcome<void>> {
  return checked(slotByHandSchema, input, ({ handsetId, slot, partition, sha256, reason }) =>
    setSlotByHand(handsetId, slot, partition, sha256, reason),
  );
}

export async function recogniseAction(input: {
  handsetId: string;
  files: readonly DescribedFile[];
}): Promise<Outcome<RecognisedFile[]>> {
  return checked(recogniseSchema, input, ({ handsetId, files }) => recogniseReadBack(handsetId, files));
}

export async function keepReadBackAction(input: {
  handsetId: string;
  files: readonly { partition: string; slot: string; sha256: string }[];
}): Promise<Outcome<void>> {
  return checked(keepReadBackSchema, input, ({ handsetId, files }) => keepReadBack(handsetId, files, 'file'));
}

export async function readBackAction(handsetId: string): Promise<Outcome<JobView>> {
  return checked(handsetIdSchema, { handsetId }, (input) => readBackOverLink(input.handsetId));
}

export async function noteBackupAction(input: InferType<typeof backupNoteSchema>): Promise<Outcome<void>> {
  return checked(backupNoteSchema, input, noteBackup);
}

export async function noteClockAction(input: InferType<typeof clockSchema>): Promise<Outcome<void>> {
  return checked(clockSchema, input, noteClock);
}

export async function noteDependencyAction(
  input: InferType<typeof dependencySchema>,
): Promise<Outcome<void>> {
  return checked(dependencySchema, input, noteDependency);
}

export async function noteEdgeAction(input: InferType<typeof edgeSchema>): Promise<Outcome<void>> {
  return checked(edgeSchema, input, ({ handsetId, ...edge }) => noteEdge(handsetId, edge));
}

export async function keepSecretAction(input: InferType<typeof secretSchema>): Promise<Outcome<void>> {
  return checked(secretSchema, input, ({ handsetId, name, value }) => keepSecret(handsetId, name, value));
}
