import 'server-only';
import { cache } from 'react';
import { EternoError } from '@/core/errors';
import type { PackageView } from '@/contracts/firmware-view';
import type { PackageReport } from '@/core/packages/package-report';
import { slotMapOf } from '@/core/slots/slot-map';
import type { HandsetRow } from '../db/models';
import { listEntries } from '../repositories/calendar-repository';
import { listEvents } from '../repositories/event-repository';
import { findHandset, listHandsets } from '../repositories/handset-repository';
import { listBuilds, listImages, listKits, listPackages } from '../repositories/image-repository';
import { listModules, listModuleTrials } from '../repositories/module-repository';
import { listRecoveries, listTrials } from '../repositories/record-repository';
import { knownFrom } from './fact-service';
import type { HandsetHistory } from './handset-history';
import { historiesOfAll, historyOf } from './handset-history';
import type { Bench, Subject } from './judgements';

/* Everything that judgements work from, read together. */

/** Packages that were opened, and what they were found to be. */
export async function packageViews(): Promise<PackageView[]> {
  return (await listPackages()).map(({ id, fileName, sizeBytes, openedAt, report }) => ({
    id,
    fileName,
    sizeBytes,
    openedAt,
    report: JSON.parse(report) as PackageReport,
  }));
}

export async function needHandset(id: string): Promise<Readonly<HandsetRow>> {
  const handset = await findHandset(id);
  if (!handset) throw new EternoError('not-found', 'This handset is not on the bench.');
  return handset;
}

/** What the last integrity check found wrong in the vault. */
export async function damagedHashes(): Promise<ReadonlySet<string>> {
  const last = (await listEvents({ kind: 'vault-checked' })).at(-1);
  return new Set(
    last
      ? (JSON.parse(last.data) as { damaged: string[]; missing: string[] }).damaged.concat((JSON.parse(last.data) as { missing: string[] }).missing)
      : [],
  );
}

/** Everything that all handsets are held against; the frame and the room of one page share what was read. */
export const readBench = cache(async (): Promise<Bench> => {
  return {
    builds: await listBuilds(),
    images: await listImages(),
    packages: await packageViews(),
    kits: await listKits(),
    recoveries: await listRecoveries(),
    trials: await listTrials(),
    modules: await listModules(),
    moduleTrials: await listModuleTrials(),
    damaged: await damagedHashes(),
    quiet: (await listEntries()).filter(({ quiet }) => quiet === 'yes').map(({ what, startsAt, endsAt }) => ({ what, from: startsAt, to: endsAt })),
  };
});

const subjectOf = (handset: Readonly<HandsetRow>, history: HandsetHistory): Subject => ({
  handset,
  history,
  facts: knownFrom(history),
  cells: slotMapOf(history.slots),
  root: history.rootChanges.at(-1)?.state ?? 'unknown',
});

export const readSubject = async (handset: Readonly<HandsetRow>): Promise<Subject> => subjectOf(handset, await historyOf(handset.id));

/** Every handset, in the order in which they came. */
export const readSubjects = cache(async (): Promise<Subject[]> => {
  const histories = await historiesOfAll();
  return (await listHandsets()).map((handset) => subjectOf(handset, histories(handset.id)));
});
