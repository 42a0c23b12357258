import 'server-only';
import type { ActionId } from '@/core/planning/actions';
import { ACTIONS } from '@/core/planning/actions';
import { learnPace } from '@/core/planning/pace';
import type { SlipCounts } from '@/core/planning/slips';
import { FROM_OUTSIDE } from '@/core/steps/deeds';
import type { StepRow } from '../db/models';
import { listEvents } from '../repositories/event-repository';
import { listEdges } from '../repositories/record-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import type { Learnt } from './planning-context';

/* What the log teaches the planner: how long steps take here, and how often the usual slips happen. */

const isAction = (key: string): key is ActionId => Object.hasOwn(ACTIONS, key);

async function allSteps(): Promise<Readonly<StepRow>[]> {
  return stepsOf((await listRounds()).map((round) => round.id));
}

export async function learnt(): Promise<Learnt & { readonly slips: SlipCounts }> {
  const steps = await allSteps();
  const own = new Map<ActionId, number[]>();
  for (const { key, state, startedAt, endedAt } of steps) {
    if (state !== 'done' || startedAt === null || endedAt === null || !isAction(key)) continue;
    own.set(key, [...(own.get(key) ?? []), (endedAt - startedAt) / 1000]);
  }
  const pace = Object.fromEntries([...own].map(([key, seconds]) => [key, learnPace(ACTIONS[key].minutes, seconds)]));
  return { pace, edges: await listEdges(), slips: await slipCounts(steps) };
}

const isWrite = (key: string) => (FROM_OUTSIDE as readonly string[]).includes(key);

async function slipCounts(steps: readonly Readonly<StepRow>[]): Promise<SlipCounts> {
  const told = (await listEvents({ kind: 'slip' })).map((event) => (JSON.parse(event.data) as { slip?: unknown }).slip);
  const failed = (await listEvents({ kind: 'step-failed' })).map((event) => JSON.parse(event.data) as { key?: string; error?: { code?: string } });
  const done = (test: (key: string) => boolean) => steps.filter((step) => step.state === 'done' && test(step.key)).length;
  const lost = failed.filter(({ key, error }) => key !== undefined && isWrite(key) && error?.code === 'link-lost').length;
  const early = told.filter((slip) => slip === 'early restart').length;
  const wrong = told.filter((slip) => slip === 'wrong slot').length;
  const writes = done(isWrite);
  return {
    'early restart': { slips: early, chances: early + done((key) => key === 'take-update' || key === 'take-full-update') },
    'wrong slot': { slips: wrong, chances: wrong + done((key) => key === 'write-root') },
    'cable lost': { slips: lost, chances: lost + writes },
  };
}
