import 'server-only';
import type { ActionId } from '@/core/planning/actions';
import { ACTIONS } from '@/core/planning/actions';
import { learnPace } from '@/core/planning/pace';
import type { SlipCounts, SlipId } from '@/core/planning/slips';
import type { RoundStep } from '@/core/rounds/round';
import { wasPaused, workedSeconds } from '@/core/rounds/worked';
import { DEEDS, FROM_OUTSIDE } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-key';
import { eventsOf } from '../repositories/event-repository';
import { listEdges } from '../repositories/record-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import type { Learnt } from '@/core/bench/handset-profile';
import { withPractice } from './practice-slips';

/* What the log teaches the planner: how long steps take here, and how often the usual slips happen. */

const isAction = (key: string): key is ActionId => Object.hasOwn(ACTIONS, key);

/** A round that did not reach what it was for teaches no times. */
async function allSteps(): Promise<{ readonly all: RoundStep[]; readonly good: RoundStep[] }> {
  const rounds = await listRounds();
  const missed = new Set(rounds.filter(({ reached }) => reached === 'no').map(({ id }) => id));
  const all = await stepsOf(rounds.map(({ id }) => id));
  return { all, good: all.filter(({ roundId }) => !missed.has(roundId)) };
}

export async function learnt(): Promise<Learnt & { readonly slips: SlipCounts }> {
  const { all, good } = await allSteps();
  const own = new Map<ActionId, number[]>();
  for (const step of good) {
    const { key, state } = step;
    const seconds = workedSeconds(step);
    if (state !== 'done' || seconds === null || wasPaused(step) || !isAction(key)) continue;
    own.set(key, [...(own.get(key) ?? []), seconds]);
  }
  const pace = Object.fromEntries(
    [...own].map(([key, seconds]) => [key, learnPace(ACTIONS[key].minutes, seconds)]),
  );
  return { pace, edges: await listEdges(), slips: await withPractice(await slipCounts(all)) };
}

const isWrite = (key: string) => (FROM_OUTSIDE as readonly string[]).includes(key);
const chanceOf = (slip: SlipId) => (key: StepKey) => DEEDS[key].slips?.includes(slip) === true;

/** Of this log alone. @param since UTC milliseconds; what is older does not count */
export const slipsHere = async (since: number): Promise<SlipCounts> =>
  slipCounts(
    (await allSteps()).all.filter(({ endedAt }) => endedAt !== null && endedAt >= since),
    since,
  );

async function slipCounts(steps: readonly RoundStep[], since = 0): Promise<SlipCounts> {
  const dataOf = async <K extends 'slip' | 'step-failed'>(kind: K) =>
    (await eventsOf(kind)).filter(({ at }) => at >= since).map(({ data }) => data);
  const told = (await dataOf('slip')).map(({ slip }) => slip);
  const failed = await dataOf('step-failed');
  const done = (test: (key: StepKey) => boolean) =>
    steps.filter((step) => step.state === 'done' && test(step.key)).length;
  const lost = failed.filter(
    ({ key, error }) => key !== undefined && isWrite(key) && error?.code === 'link-lost',
  ).length;
  const early = told.filter((slip) => slip === 'early restart').length;
  const wrong = told.filter((slip) => slip === 'wrong slot').length;
  const writes = done(isWrite);
  return {
    'early restart': { slips: early, chances: early + done(chanceOf('early restart')) },
    'wrong slot': { slips: wrong, chances: wrong + done(chanceOf('wrong slot')) },
    'cable lost': { slips: lost, chances: lost + writes },
  };
}
