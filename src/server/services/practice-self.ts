import 'server-only';
import type { OwnPractice } from '@/contracts/practice-view';
import { EternoError } from '@/core/errors';
import type { Scene } from '@/core/practice/scene';
import { checkScene, sceneTitle } from '@/core/practice/scene';
import type { TrueState } from '@/core/practice/true-state';
import type { RoundEvent } from '@/core/rounds/decision';
import { appendEvent } from '../repositories/event-repository';
import { needHandset } from './bench-reading';
import { now } from './clock';
import { standInView } from './stand-in-service';

/* What this very Eterno is, where it is one of practice; and what its stand-in truly was at the end of each step. */

/** As it is handed to the process that makes a world and to the server in it, as JSON in ETERNO_PRACTICE. */
export interface ToldPractice extends Scene {
  /** The Eterno that it was begun from. */
  readonly home: string;
  /** When it was begun: what is older is a copy of one's own records. */
  readonly since: number;
}

export function ownPractice(): OwnPractice | null {
  const told = process.env.ETERNO_PRACTICE;
  if (told === undefined || told === '') return null;
  const { home, since, ...scene } = JSON.parse(told) as ToldPractice;
  const checked = checkScene(scene);
  return { scene: checked, title: sceneTitle(checked), home, since };
}

/** @throws {EternoError} `refused` in practice itself */
export function needHome(): void {
  if (ownPractice())
    throw new EternoError('refused', 'This is practice: go back to your own Eterno for that.');
}

/** @returns null where no stand-in of it runs */
export async function trueStateOf(profile: string | null): Promise<TrueState | null> {
  const view = profile === null ? null : await standInView(profile);
  if (view === null) return null;
  const { mode, active, running, data } = view.state;
  const { waitedMs, came } = view;
  return { mode, slot: active, rooted: running?.rooted ?? null, wipes: data.wipes, waitedMs, came };
}

/** In practice: what the stand-in truly is when a step has ended, for the debrief. */
export async function noteTrueState(
  roundId: string,
  handsetId: string,
  events: readonly RoundEvent[],
): Promise<void> {
  const end = events.find(({ kind }) => kind === 'step-done' || kind === 'step-failed');
  if (end === undefined || ownPractice() === null) return;
  const { profile } = await needHandset(handsetId);
  const truly = await trueStateOf(profile);
  if (truly === null) return;
  const { key } = end.data as { readonly key: string };
  const data = { version: 1, key, done: end.kind === 'step-done', ...truly };
  await appendEvent({ at: now(), handsetId, roundId, kind: 'true-state', data });
}
