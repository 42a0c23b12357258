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
  renameSchema,
  secretSchema,
  slotByHandSchema,
  handsetIdSchema,
  typeFactSchema,
} from '@/contracts/inputs';
import type { JobView } from '@/contracts/job-view';
import { forgetWaySchema, sayWaySchema } from '@/contracts/way-inputs';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import type { SizedImage } from '@/core/slots/held-image';
import { applyFacts, chooseFact, previewFacts, typeFact } from '@/server/services/fact-service';
import { putAway, removeHandset, renameHandset } from '@/server/services/handset-life';
import { readFactsFromLink } from '@/server/services/link-facts';
import {
  imagesOnHandsets,
  keepReadBack,
  readBackOverLink,
  recogniseReadBack,
} from '@/server/services/read-back-service';
import type { DescribedFile } from '@/server/services/read-back-service';
import {
  keepSecret,
  noteBackup,
  noteClock,
  noteDependency,
  noteEdge,
} from '@/server/services/record-service';
import { saidNotToStart, saidToBeRooted } from '@/server/rounds/said-state';
import { setSlotByHand } from '@/server/services/slot-service';
import { forgetWayAt, sayWayAt } from '@/server/services/say-way';

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

export async function imagesOnHandsetsAction(): Promise<Outcome<SizedImage[]>> {
  return outcome(imagesOnHandsets);
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

export async function sayWayAction(input: InferType<typeof sayWaySchema>): Promise<Outcome<void>> {
  return checked(sayWaySchema, input, sayWayAt);
}

export async function forgetWayAction(input: InferType<typeof forgetWaySchema>): Promise<Outcome<void>> {
  return checked(forgetWaySchema, input, forgetWayAt);
}

export async function noteEdgeAction(input: InferType<typeof edgeSchema>): Promise<Outcome<void>> {
  return checked(edgeSchema, input, ({ handsetId, ...edge }) => noteEdge(handsetId, edge));
}

export async function keepSecretAction(input: InferType<typeof secretSchema>): Promise<Outcome<void>> {
  return checked(secretSchema, input, ({ handsetId, name, value }) => keepSecret(handsetId, name, value));
}

export async function renameAction(input: InferType<typeof renameSchema>): Promise<Outcome<void>> {
  return checked(renameSchema, input, ({ handsetId, name }) => renameHandset(handsetId, name));
}

export async function putAwayAction(handsetId: string): Promise<Outcome<void>> {
  return checked(handsetIdSchema, { handsetId }, (input) => putAway(input.handsetId));
}

export async function removeAction(handsetId: string): Promise<Outcome<void>> {
  return checked(handsetIdSchema, { handsetId }, (input) => removeHandset(input.handsetId));
}

/** It is rooted already, by what the person says: that is proved next. */
export async function rootedAction(handsetId: string): Promise<Outcome<void>> {
  return checked(handsetIdSchema, { handsetId }, (input) => saidToBeRooted(input.handsetId));
}

/** It does not start: the round that brings its stock image back. */
export async function notStartingAction(handsetId: string): Promise<Outcome<string>> {
  return checked(handsetIdSchema, { handsetId }, (input) => saidNotToStart(input.handsetId));
}
