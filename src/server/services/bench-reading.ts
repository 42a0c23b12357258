import 'server-only';
import { cache } from 'react';
import { EternoError } from '@/core/errors';
import { slotMapOf } from '@/core/slots/slot-map';
import type { HandsetRow } from '../db/models';
import { listEntries } from '../repositories/calendar-repository';
import { eventsOf } from '../repositories/event-repository';
import { findHandset, listHandsets } from '../repositories/handset-repository';
import { listBuilds, listImages, listKits, listPackages } from '../repositories/image-repository';
import { listModules, listModuleTrials } from '../repositories/module-repository';
import { listRecoveries, listTrials } from '../repositories/record-repository';
import { readSetting } from '../repositories/setting-repository';
import { listWays } from '../repositories/way-repository';
import type { KeptWay } from '../db/decode';
import type { Ways } from '@/core/ways/way-kinds';
import { waysFrom } from './way-service';
import type { SlotCell } from '@/core/slots/slot-map';
import type { RootState } from '@/core/schedule/continuity';
import { now } from './clock';
import type { KnownFacts } from './fact-service';
import { knownFrom } from './fact-service';
import type { HandsetHistory } from './handset-history';
import { historiesOfAll, historyOf } from './handset-history';
import type { Bench } from '@/core/bench/bench';
import type { ListedLine } from '@/core/finding/listed-builds';
import { DOWNLOAD_PAGE } from '../db/setting-keys';

/* Everything that judgements work from, read together. */

/** One handset with all that was ever kept of it; judgements in the core read less of it (`core/bench`). */
export interface KnownHandset {
  readonly handset: Readonly<HandsetRow>;
  readonly facts: KnownFacts;
  readonly cells: readonly SlotCell[];
  readonly root: RootState;
  readonly history: HandsetHistory;
  /** Keys, words and habits of its model. */
  readonly ways: Ways;
}

export async function needHandset(id: string): Promise<Readonly<HandsetRow>> {
  const handset = await findHandset(id);
  if (!handset) throw new EternoError('not-found', 'This handset is not on the bench.');
  return handset;
}

/** What the last integrity check found wrong in the vault. */
export async function damagedHashes(): Promise<ReadonlySet<string>> {
  const last = (await eventsOf('vault-checked')).at(-1)?.data;
  return new Set(last ? [...last.damaged, ...last.missing] : []);
}

/** What a page said so long ago says nothing of today. */
const OFFERS_LAST_MS = 14 * 86_400_000;

/** Builds that the maker's page offered when it was read last; null where that is too long ago. */
function offeredIn(text: string | null): Bench['offered'] {
  if (text === null) return null;
  const { at, lines } = JSON.parse(text) as { readonly at: number; readonly lines: readonly ListedLine[] };
  if (now() - at > OFFERS_LAST_MS) return null;
  return new Set(lines.flatMap(({ fingerprint }) => fingerprint ?? []));
}

/** Everything that all handsets are held against; the frame and the room of one page share what was read. */
export const readBench = cache(async (): Promise<Bench> => {
  return {
    builds: await listBuilds(),
    images: await listImages(),
    packages: await listPackages(),
    kits: await listKits(),
    recoveries: await listRecoveries(),
    trials: await listTrials(),
    modules: await listModules(),
    moduleTrials: await listModuleTrials(),
    offered: offeredIn(await readSetting(DOWNLOAD_PAGE)),
    damaged: await damagedHashes(),
    quiet: (await listEntries())
      .filter(({ quiet }) => quiet === 'yes')
      .map(({ what, startsAt, endsAt }) => ({ what, from: startsAt, to: endsAt })),
  };
});

function subjectOf(
  handset: Readonly<HandsetRow>,
  history: HandsetHistory,
  said: readonly KeptWay[],
): KnownHandset {
  const facts = knownFrom(history);
  return {
    handset,
    history,
    facts,
    cells: slotMapOf(history.slots),
    root: history.rootChanges.at(-1)?.state ?? 'unknown',
    ways: waysFrom({ handset, facts }, said),
  };
}

export const readSubject = async (handset: Readonly<HandsetRow>): Promise<KnownHandset> =>
  subjectOf(handset, await historyOf(handset.id), await listWays());

/** Every handset, put away or not, in the order in which they came. */
export const readAllSubjects = cache(async (): Promise<KnownHandset[]> => {
  const [histories, said] = [await historiesOfAll(), await listWays()];
  return (await listHandsets()).map((handset) => subjectOf(handset, histories(handset.id), said));
});

/** Those that are not put away. */
export const readSubjects = async (): Promise<KnownHandset[]> =>
  (await readAllSubjects()).filter(({ handset }) => handset.putAwayAt === null);
