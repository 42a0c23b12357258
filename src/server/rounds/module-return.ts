import 'server-only';
import type { ReturnView } from '@/contracts/round-view';
import { EternoError } from '@/core/errors';
import type { BringBack } from '@/core/modules/bring-back';
import { afterBatch, beginBringBack, isDone, nextBatch, suspectsOf } from '@/core/modules/bring-back';
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

/** Where the return stands. What is known to loop on this build was never a candidate. */
export async function returnState(
  context: RoundContext,
): Promise<{ readonly state: BringBack; readonly stays: readonly string[]; readonly on: readonly string[] }> {
  const { bench, round, subject } = context;
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
  return { state, stays, on: moduleIdsOf(subject).filter((id) => !off.includes(id)) };
}

/** What a person sees of it. */
export async function returnView(context: RoundContext): Promise<ReturnView> {
  const { state, stays } = await returnState(context);
  const name = (id: string) => shelvedModule(context.bench, id)?.name ?? id;
  return {
    good: state.good.map(name),
    bad: [...stays, ...state.bad].map(name),
    waiting: state.free.map(({ id }) => name(id)),
    suspects: suspectsOf(state).map(({ id, chance }) => ({ name: name(id), chance })),
    next: nextBatch(state),
    nextNames: nextBatch(state)?.batch.map(name) ?? [],
  };
}

/** The batch to try now. @throws {EternoError} `conflict` where nothing is left */
export function batchNow(state: BringBack): readonly string[] {
  const next = isDone(state) ? null : nextBatch(state);
  if (!next) throw new EternoError('conflict', 'every module is settled already');
  return next.batch;
}
