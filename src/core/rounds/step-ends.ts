import type { FreshPlan, Moment, Partition } from './command';
import { GOAL_WORDS } from '../planning/goals';
import { DEEDS, undoneBy } from '../steps/deeds';
import type { StepKey } from '../steps/step-key';
import type { DecidedStep, Decision, RoundChange, RoundEvent } from './decision';
import { NOTHING_DECIDED, waiting } from './decision';
import type { Evidence } from './evidence';
import type { Actor, Round, RoundStep, Seen, SlotReport } from './round';

/* How a step ends, and what follows from that: steps that are proved already, another plan, partitions in doubt. */

export const weak = (what: string): Evidence => ({ what, strength: 'weak' });
export const strong = (what: string): Evidence => ({ what, strength: 'strong' });

export const changed = (
  steps: readonly RoundStep[],
  stepId: string,
  change: Partial<RoundStep>,
): RoundStep[] => steps.map((step) => (step.id === stepId ? { ...step, ...change } : step));

/** When the last of its steps was over, or it was begun. */
const lastEnd = (round: Round, steps: readonly DecidedStep[]) =>
  steps.reduce((latest, { endedAt }) => Math.max(latest, endedAt ?? 0), round.openedAt);

/** What a step saw, as what is kept of it. */
export function seenAs({ root }: Moment, seen: Seen, events: readonly RoundEvent[] = []) {
  const told: readonly RoundEvent[] =
    seen.root === null || seen.root.state === root ? [] : [{ kind: 'root', data: seen.root }];
  return { slots: seen.slots, trials: seen.trials, backups: seen.backups, events: [...told, ...events] };
}

/** The person looked for their data and did not find it: what was backed up still has to go back. */
const dataIsGone = (evidence: readonly Evidence[]) =>
  evidence.some(({ about, says }) => about === 'data-there' && says === 'no');

/** What a step changed for a while; what is open already is not opened twice, and where nothing is kept nothing goes back. */
function opened(
  { key }: RoundStep,
  evidence: readonly Evidence[],
  putBacks: Moment['putBacks'],
): Decision['putBacks']['open'] {
  const { opens } = DEEDS[key];
  const nothing = evidence.some(({ nothingKept }) => nothingKept !== undefined);
  return opens && !nothing && !putBacks.some(({ kind }) => kind === key)
    ? [{ kind: key, what: opens.what }]
    : [];
}

/** A step is over with what was seen; what follows and is proved already is over with it. */
export function endStep(
  moment: Moment,
  stepId: string,
  actor: Actor,
  evidence: readonly Evidence[],
  seen: Seen,
  endedAt: number,
): Decision {
  const { round, steps, putBacks } = moment;
  const step = steps.find(({ id }) => id === stepId)!;
  const startedAt = step.startedAt ?? lastEnd(round, steps);
  const decision: Decision = {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen, [
      { kind: 'step-done', data: { key: step.key, actor, seconds: (endedAt - startedAt) / 1000, evidence } },
    ]),
    steps: changed(steps, stepId, { state: 'done', startedAt, endedAt, actor, evidence }),
    putBacks: {
      // what is open already is not opened twice
      open: opened(step, evidence, putBacks),
      close: putBacks
        .filter(
          ({ kind }) => undoneBy(kind).includes(step.key) && !(kind === 'back-up' && dataIsGone(evidence)),
        )
        .map(({ id }) => ({ id, how: `step ${step.key}` })),
    },
  };
  return withSettled(decision, moment, endedAt);
}

/** Steps that follow and whose result is there already are over too. */
export function withSettled(decision: Decision, { round, proves }: Moment, now: number): Decision {
  const steps = [...(decision.steps ?? [])];
  let last = lastEnd(
    round,
    steps.filter(({ state }) => state === 'done'),
  );
  let settled = false;
  for (const [i, step] of steps.entries()) {
    if (step.state === 'done') continue;
    const evidence = step.state === 'running' ? null : proves(step, steps, round.target);
    if (evidence === null) break;
    steps[i] = { ...step, state: 'done', startedAt: last, endedAt: now, actor: 'computer', evidence };
    last = now;
    settled = true;
  }
  return settled ? { ...decision, steps } : decision;
}

/** After facts were read: the plan is made anew where they ask for another. */
export function planAnewIfOther(
  decision: Decision,
  moment: Moment,
  stepId: string,
  fresh: FreshPlan | null,
  now: number,
): Decision {
  const { steps, round } = moment;
  const step = steps.find(({ id }) => id === stepId);
  if (fresh === null || !step || !DEEDS[step.key].plansAnew) return decision;
  const waitingNow = (decision.steps ?? []).filter(({ state }) => state !== 'done');
  const listed = (ids: readonly string[] = []) => [...ids].sort().join();
  const same =
    listed(fresh.plan.modulesOff) === listed(round.plan.modulesOff) &&
    step.planned.build === fresh.installed &&
    // what the vault has settled since is in neither
    waitingNow.every(({ key }) => fresh.steps.some((one) => one.key === key)) &&
    fresh.steps.every(({ key }) => steps.some((one) => one.key === key));
  // it was found out by this very step
  const known = { ...fresh, findOut: false };
  return same ? decision : planAnew(decision, moment, decision.steps ?? [], known, now);
}

/** What a person did or said once in a round is not asked again. */
const ONCE: readonly StepKey[] = ['protect', 'find-out'];

/** The steps that are done stay, all others are replaced. */
export function planAnew(
  decision: Decision,
  moment: Moment,
  steps: readonly DecidedStep[],
  fresh: FreshPlan,
  now: number,
): Decision {
  const done = steps.filter(({ state }) => state === 'done');
  const told = new Set(done.map(({ key }) => key));
  const next = fresh.steps.filter(
    ({ key }) => !((ONCE.includes(key) || (key === 'read-facts' && !fresh.findOut)) && told.has(key)),
  );
  const change: RoundChange = { lane: fresh.lane, plan: fresh.plan, target: fresh.target };
  return withSettled(
    {
      ...decision,
      round: { ...decision.round, ...change },
      steps: [...done, ...next.map(waiting)],
      events: [
        ...decision.events,
        { kind: 'planned-anew', data: { lane: fresh.lane, goal: GOAL_WORDS[fresh.goal] } },
      ],
    },
    { ...moment, round: { ...moment.round, ...change } },
    now,
  );
}

export const inDoubt = (doubt: readonly Partition[], reason: string): SlotReport[] =>
  doubt.map(({ partition, slot }) => ({ partition, slot, sha256: null, certainty: 'unknown', reason }));
