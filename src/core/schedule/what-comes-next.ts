import type { Dispute } from '../words/dispute';
import type { EndedWait, NextSays, WaitingSays } from '../words/schedule';
import type { RootState } from './continuity';

export interface NextInput {
  readonly root: RootState;
  readonly openRound: { readonly title: string; readonly step: string } | null;
  readonly installedBuild: string | null;
  /** The newest build known for this handset, and when it came out. */
  readonly newest: { readonly buildId: string; readonly publishedAt: number } | null;
  readonly unlocked: boolean | null;
  readonly rootPartition: string | null;
  /** Two sources that contradict each other. */
  readonly contradiction: Dispute | null;
  /** What the newest build still waits for by the person's own rule; null where it waits for nothing. */
  readonly waits: WaitingSays | null;
  /** Waits that have ended: an unlock switch, a mailed code. */
  readonly ended: readonly EndedWait[];
  readonly now: number;
}

type Goes = 'round' | 'start-round' | 'handset' | 'before-wipe' | 'contradiction' | 'ways' | 'calendar';

export interface NextStep {
  readonly says: NextSays;
  readonly goes: Goes;
  /** Whether the person is needed now. */
  readonly urgent: boolean;
  readonly daysBehind: number;
  /** What the newest build waits for, where `says` is about something else. */
  readonly meanwhile: WaitingSays | null;
}

const DAY_MS = 86_400_000;

const URGENT: readonly NextSays['code'][] = [
  'round-open',
  'build-unknown',
  'contradiction',
  'wait-over',
  'root-lost',
  'broken',
  'root-claimed',
];
const GOES: Readonly<Record<NextSays['code'], Goes>> = {
  'round-open': 'round',
  'build-unknown': 'handset',
  contradiction: 'contradiction',
  'wait-over': 'calendar',
  locked: 'before-wipe',
  'root-lost': 'start-round',
  broken: 'start-round',
  'root-claimed': 'start-round',
  'update-waits': 'calendar',
  'update-out': 'ways',
  'all-done': 'handset',
  'root-unknown': 'start-round',
  'not-rooted': 'start-round',
};

/** What comes next for a handset, and where that is done. */
export function whatComesNext(input: NextInput): NextStep {
  const { openRound, installedBuild, newest, waits, now } = input;
  const behind = newest !== null && installedBuild !== null && newest.buildId !== installedBuild;
  const says = nextSays(input, behind ? newest.buildId : null);
  return {
    says,
    goes: GOES[says.code],
    urgent: URGENT.includes(says.code),
    daysBehind: behind ? Math.max(0, Math.floor((now - newest.publishedAt) / DAY_MS)) : 0,
    // whoever has begun a round has decided
    meanwhile: behind && !openRound && says.code !== 'update-waits' ? waits : null,
  };
}

/** @param update build number of an update that is out; null where there is none */
function nextSays(input: NextInput, update: string | null): NextSays {
  const { openRound, installedBuild, contradiction, ended, unlocked, root, waits } = input;
  if (openRound) return { code: 'round-open', round: openRound.title, step: openRound.step };
  if (installedBuild === null) return { code: 'build-unknown' };
  if (contradiction) return { code: 'contradiction', contradiction };
  if (ended.length > 0) return { code: 'wait-over', ended };
  if (unlocked === false) return { code: 'locked' };
  const about = { partition: input.rootPartition, build: installedBuild };
  if (root === 'lost') return { code: 'root-lost', ...about };
  if (root === 'broken') return { code: 'broken' };
  if (root === 'unproven') return { code: 'root-claimed' };
  if (update !== null)
    return waits ? { code: 'update-waits', waiting: waits } : { code: 'update-out', build: update };
  if (root === 'proven') return { code: 'all-done' };
  return { code: root === 'unknown' ? 'root-unknown' : 'not-rooted', ...about };
}
