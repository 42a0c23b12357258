import 'server-only';
import type { Odds } from '@/core/practice/surprises';
import { MOST_ODDS } from '@/core/practice/surprises';
import type { CauseId } from '@/core/words/rescue';
import type { SurpriseId } from '@/core/words/surprises';
import { SURPRISE_IDS } from '@/core/words/surprises';
import { eventsOf } from '../repositories/event-repository';
import { listModuleTrials } from '../repositories/module-repository';
import { slipsHere } from './learnt-service';

/* How often each surprise came in one's own record: a month of practice is drawn by it. */

/** What a surprise is among the causes of closed cases. */
const CAUSES: Readonly<Partial<Record<SurpriseId, CauseId>>> = {
  'cable-out': 'cable',
  'low-battery': 'battery',
  'bad-module': 'module',
  'debugging-off': 'debugging-off',
  'stuck-merge': 'snapshot',
  'denying-app': 'root-app',
  'slot-changed': 'wrong-slot',
};
/** One that came weighs as so many that never did. */
const WEIGHT = 4;

/** How often each came, of those that did. */
async function timesCame(): Promise<Readonly<Partial<Record<SurpriseId, number>>>> {
  const slips = await slipsHere(0);
  const closed = await eventsOf('rescue-closed');
  const failed = await eventsOf('step-failed');
  const trials = await listModuleTrials();
  const cases = (cause: CauseId | undefined) =>
    cause === undefined ? 0 : closed.filter(({ data }) => data.cause === cause).length;
  const others: Readonly<Partial<Record<SurpriseId, number>>> = {
    'cable-out': slips['cable lost']?.slips ?? 0,
    'restarts-itself': slips['early restart']?.slips ?? 0,
    'own-update': slips['early restart']?.slips ?? 0,
    'slot-changed': slips['wrong slot']?.slips ?? 0,
    'bad-module': trials.filter(({ outcome }) => outcome === 'looped').length,
    'prompt-gone': failed.filter(({ data }) => data.key === 'prove-root').length,
  };
  const times = SURPRISE_IDS.map((id) => [id, cases(CAUSES[id]) + (others[id] ?? 0)] as const);
  return Object.fromEntries(times.filter(([, count]) => count > 0));
}

/** @returns the odds of a month; empty where nothing of the kind is on record */
export async function oddsHere(): Promise<Odds> {
  const times = Object.entries(await timesCame());
  return Object.fromEntries(times.map(([id, count]) => [id, Math.min(MOST_ODDS, 1 + WEIGHT * count)]));
}
