import 'server-only';
import type { ReturnView } from '@/contracts/round-view';
import { EternoError } from '@/core/errors';
import { kitOnIt } from '@/core/bench/judgements';
import type { BringBack, NextBatch } from '@/core/modules/bring-back';
import {
  afterBatch,
  beginBringBack,
  costsWith,
  isDone,
  nextBatch,
  suspectsOf,
} from '@/core/modules/bring-back';
import { eventsOf } from '../repositories/event-repository';
import { judgeModules, moduleIdsOf, modulesNamed, shelvedModule } from '@/core/bench/modules-judged';
import type { RoundContext } from './round-context';

/* Modules coming back during a round: what was tried is in the log, and the state is played from it. */

/** The build that they come back on. */
const buildRunning = ({ round, facts }: RoundContext) => facts.fingerprint ?? round.target ?? '';

/** The build that they ran on before: the step between the two is what may break them. */
const buildBefore = (context: RoundContext) => context.steps[0]?.planned.build ?? buildRunning(context);

/** Those that the plan wanted off; of a plan that named none, all of them. */
const offOf = ({ round, subject }: RoundContext) =>
  round.plan.modulesOff?.length ? round.plan.modulesOff : moduleIdsOf(subject);

export interface ReturnState {
  readonly state: BringBack;
  /** Known to loop on this build. */
  readonly stays: readonly string[];
  /** Were never off. */
  readonly on: readonly string[];
  /** Null where every module is settled. */
  readonly next: NextBatch | null;
  /** After so many failed starts the kit that runs on it rests all modules; null where none says so. */
  readonly restsAfter: number | null;
}

/** Where the return stands. What is known to loop on this build was never a candidate. */
export async function returnState(context: RoundContext): Promise<ReturnState> {
  const { bench, round, subject, rootPartition } = context;
  const off = offOf(context);
  // evidence of this round itself changes no chance in the middle of it
  const before = { ...bench, moduleTrials: bench.moduleTrials.filter((trial) => trial.roundId !== round.id) };
  const { modules } = judgeModules(
    before,
    modulesNamed(subject, off),
    buildBefore(context),
    buildRunning(context),
  );
  const stays = modules.filter(({ chance }) => chance.loopedHere).map(({ id }) => id);
  let state = beginBringBack(
    modules.filter(({ id }) => !stays.includes(id)).map(({ id, chance }) => ({ id, chance: chance.mean })),
  );
  for (const { data } of await eventsOf('module-batch', { roundId: round.id }))
    state = afterBatch(state, data.batch, data.outcome);
  const restsAfter = kitOnIt(subject, bench, rootPartition)?.restsAfter ?? null;
  return {
    state,
    stays,
    on: moduleIdsOf(subject).filter((id) => !off.includes(id)),
    next: isDone(state) ? null : nextBatch(state, costsWith(restsAfter)),
    restsAfter,
  };
}

/** What a person sees of it. */
export async function returnView(context: RoundContext): Promise<ReturnView> {
  const { state, stays, next, restsAfter } = await returnState(context);
  const name = (id: string) => shelvedModule(context.bench, id)?.name ?? id;
  return {
    good: state.good.map(name),
    bad: [...stays, ...state.bad].map(name),
    waiting: state.free.map(({ id }) => name(id)),
    suspects: suspectsOf(state).map(({ id, chance }) => ({ name: name(id), chance })),
    next,
    restsAfter,
    nextNames: next?.batch.map(name) ?? [],
  };
}

/** The batch to try now. @throws {EternoError} `conflict` where nothing is left */
export function batchNow({ next }: Pick<ReturnState, 'next'>): readonly string[] {
  if (!next) throw new EternoError('conflict', 'every module is settled already');
  return next.batch;
}
