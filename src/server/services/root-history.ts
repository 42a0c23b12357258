import 'server-only';
import type { RootChange, RootState } from '@/core/schedule/continuity';
import type { KeptEvent } from '../db/event-data';
import { appendEvent, eventsOf } from '../repositories/event-repository';
import { now } from './clock';

/** Every change of root that the log knows of a handset, oldest first. */
export async function rootChanges(handsetId: string): Promise<RootChange[]> {
  return (await eventsOf('root', { handsetId })).map(changeOf);
}

export const changeOf = ({ at, data }: Pick<KeptEvent<'root'>, 'at' | 'data'>): RootChange => ({
  at,
  state: data.state,
});

export async function tellRoot(
  handsetId: string,
  roundId: string | null,
  state: RootState,
  why: string,
): Promise<void> {
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
