import 'server-only';
import type { RootChange, RootState } from '@/core/schedule/continuity';
import type { EventRow } from '../db/models';
import { appendEvent, listEvents } from '../repositories/event-repository';
import { now } from './clock';

/** Every change of root that the log knows of a handset, oldest first. */
export async function rootChanges(handsetId: string): Promise<RootChange[]> {
  return (await listEvents({ handsetId, kind: 'root' })).map(readRoot);
}

export const readRoot = ({ at, data }: Readonly<EventRow>): RootChange => ({ at, state: (JSON.parse(data) as { state: RootState }).state });

export async function tellRoot(handsetId: string, roundId: string | null, state: RootState, why: string): Promise<void> {
  if ((await rootChanges(handsetId)).at(-1)?.state === state) return;
  await appendEvent({ at: now(), handsetId, roundId, kind: 'root', data: { version: 1, state, why } });
}

/** Whether root was on at a time, as the log knows it. */
export function rootedAtBy(changes: readonly RootChange[]): (at: number) => boolean {
  return (at) => {
    const state = changes.filter((change) => change.at <= at).at(-1)?.state;
    return state === 'proven' || state === 'unproven';
  };
}
