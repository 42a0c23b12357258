import 'server-only';
import { EternoError } from '@/core/errors';
import type { ClockRow, DependencyRow, DowngradeEdgeRow, RecoveryRow, TrialRow } from '../db/record-rows';
import { appendEvent } from '../repositories/event-repository';
import { writeSecret } from '../repositories/handset-repository';
import { findImage, listKits } from '../repositories/image-repository';
import {
  insertBackup,
  insertClock,
  insertEdge,
  insertRecovery,
  insertTrial,
  listRecoveries,
  setDependency,
} from '../repositories/record-repository';
import { needHandset } from './bench-reading';
import { now } from './clock';
import type { KeptBackup } from '../db/decode';
import { knownFacts } from './fact-service';
import { kitItem } from '@/core/bench/judgements';
import { needShelvable } from './recovery-judgement';

/* What a person notes: backups, clocks, apps, known ways down, private values, recoveries, trials. */

export async function noteBackup(note: Omit<KeptBackup, 'id' | 'at'>): Promise<void> {
  await needHandset(note.handsetId);
  await insertBackup({ ...note, at: now() });
}

/** @throws {EternoError} `bad-field` for a clock that has run out already */
export async function noteClock(clock: Omit<ClockRow, 'id' | 'doneAt'>): Promise<void> {
  await needHandset(clock.handsetId);
  if (clock.endsAt <= now()) throw new EternoError('bad-field', 'That time is over already.');
  await insertClock({ ...clock, doneAt: null });
}

export async function noteDependency(dependency: Omit<DependencyRow, 'id' | 'at'>): Promise<void> {
  await needHandset(dependency.handsetId);
  await setDependency({ ...dependency, at: now() });
}

export async function noteEdge(
  handsetId: string,
  edge: Omit<DowngradeEdgeRow, 'id' | 'device' | 'at'>,
): Promise<void> {
  await needHandset(handsetId);
  const { device } = (await knownFacts(handsetId)).typed;
  if (device === null)
    throw new EternoError('bad-field', 'Its code name is not known yet: paste what it prints first.');
  await insertEdge({ ...edge, device, at: now() });
}

/** Keeps a serial, token or code apart from everything else; wrapped lines are joined. */
export async function keepSecret(handsetId: string, name: string, value: string): Promise<void> {
  await needHandset(handsetId);
  await writeSecret(handsetId, name, value.replace(/\s+/g, ''));
  await appendEvent({
    at: now(),
    handsetId,
    roundId: null,
    kind: 'private-kept',
    data: { version: 1, name },
  });
}

/** @throws {EternoError} `not-found` for an image that is not in the vault, and of `needShelvable` */
export async function shelveRecovery({
  devices,
  ...row
}: Omit<RecoveryRow, 'id' | 'addedAt' | 'devices' | 'opensUpTo'> & {
  readonly devices: readonly string[];
}): Promise<void> {
  const image = row.sha256 === null ? null : await findImage(row.sha256);
  if (row.sha256 !== null && !image) throw new EternoError('not-found', 'This image is not in the vault.');
  const opensUpTo = image ? await needShelvable(image, devices, row.note) : null;
  await insertRecovery({ ...row, opensUpTo, devices, addedAt: now() });
}

/** How a kit or recovery did on a build. @throws {EternoError} `not-found` where it is on no shelf */
export async function noteTrial(trial: Omit<TrialRow, 'id' | 'at' | 'roundId'>): Promise<void> {
  const there =
    trial.shelf === 'kit'
      ? (await listKits()).some((kit) => kitItem(kit) === trial.item)
      : (await listRecoveries()).some((row) => row.id === trial.item);
  if (!there) throw new EternoError('not-found', 'It is on no shelf.');
  await insertTrial({ ...trial, roundId: null, at: now() });
}
