import type { ErrorData } from '../errors';
import type { Check, Override } from '../gates/check';
import { blocking } from '../gates/check';
import type { BringBack } from '../modules/bring-back';
import { isDone } from '../modules/bring-back';
import type { GoalId } from '../planning/context';
import { GOAL_WORDS } from '../planning/goals';
import type { RootState } from '../schedule/continuity';
import type { StepKey } from '../steps/step-key';
import { DEEDS, DONE_HERE, undoneBy } from '../steps/deeds';
import { GATE_TITLES, sawWords } from '../words/gates';
import type { Refusal } from '../words/refusals';
import * as say from '../words/step-evidence';
import type { DecidedStep, Decision, ModuleTrial, RoundChange, RoundEvent } from './decision';
import { NOTHING_DECIDED, waiting } from './decision';
import type { Evidence } from './evidence';
import type { Actor, BackupNote, KeptPlan, NewStep, Round, RoundStep, Seen, SlotTelling } from './round';
import { currentStep, NOTHING_SEEN } from './round';
import type { SignOffClaim } from './sign-off';
import { unproved } from './sign-off';

/* What a command on a round comes to. Pure: it reads a moment and says what changes, or why nothing does (docs/architecture.md, "Rounds"). */

/** What a command is decided from, read together. */
export interface Moment {
  readonly round: Round;
  readonly steps: readonly RoundStep[];
  /** Temporary changes of the handset that are open. */
  readonly putBacks: readonly { readonly id: string; readonly kind: string }[];
  /** What was last told of its root; null where nothing was. */
  readonly root: RootState | null;
  /** What the vault and the shelf of packages prove of a step, in a round of these steps; null where nothing. */
  readonly proves: (step: NewStep, steps: readonly NewStep[], target: string | null) => readonly Evidence[] | null;
}

/** A way on that was planned from what is known now. */
export interface FreshPlan {
  readonly goal: GoalId;
  readonly lane: string;
  readonly target: string;
  readonly plan: KeptPlan;
  readonly steps: readonly NewStep[];
  /** Build that runs, as it was read last. */
  readonly installed: string | null;
}

export type Command =
  /** Eterno begins a step over the link; putting stock back runs on a step that may be done already. */
  | { readonly do: 'begin'; readonly stepId: string; readonly checks: readonly Check[]; readonly overrides: readonly Override[] }
  /** A step that ran over the link is over. `fresh` is the plan from here, where what was read may ask for another. */
  | { readonly do: 'finish'; readonly stepId: string; readonly evidence: readonly Evidence[]; readonly seen: Seen; readonly fresh: FreshPlan | null }
  | {
      readonly do: 'fail';
      readonly stepId: string;
      readonly error: ErrorData;
      readonly written: readonly string[];
      readonly doubt: readonly Partition[];
      readonly seen: Seen;
    }
  | { readonly do: 'interrupt'; readonly stepId: string; readonly doubt: readonly Partition[] }
  /** Stock was put back: the round stands before its last write again. */
  | { readonly do: 'stand-before'; readonly stepId: string; readonly evidence: readonly Evidence[]; readonly seen: Seen }
  /** By hand, at the step to do now. */
  | { readonly do: 'say'; readonly words: string; readonly checks: readonly Check[]; readonly slots: readonly SlotTelling[] }
  | { readonly do: 'paste'; readonly evidence: readonly Evidence[]; readonly fresh: FreshPlan | null }
  | { readonly do: 'code'; readonly code: string }
  | { readonly do: 'confirm'; readonly checks: readonly Check[] | null; readonly overrides: readonly Override[] }
  | { readonly do: 'back-up'; readonly what: BackupNote['what'] | 'none'; readonly note: string }
  | { readonly do: 'protect'; readonly rescuePage: boolean; readonly reason: string }
  | { readonly do: 'look-around'; readonly answers: Readonly<Record<'data' | 'calls' | 'payments', string>> }
  | {
      readonly do: 'batch';
      readonly batch: readonly string[];
      readonly outcome: 'started' | 'looped';
      readonly before: BringBack;
      readonly after: BringBack;
      readonly stays: readonly string[];
      readonly byHand: boolean;
    }
  | { readonly do: 'settle' }
  | { readonly do: 'plan-anew'; readonly fresh: FreshPlan }
  /** It restarted before its time; what was seen then, and the way on from there. */
  | { readonly do: 'slip'; readonly seen: Seen; readonly fresh: FreshPlan }
  | { readonly do: 'close'; readonly claims: readonly SignOffClaim[]; readonly rootProved: 'yes' | 'no' | 'not asked' | 'gone' }
  | { readonly do: 'again'; readonly again: 'yes' | 'no'; readonly note: string }
  | { readonly do: 'give-up' };

/** A partition, and its slot where the handset has two. */
export interface Partition {
  readonly partition: string;
  readonly slot: string | null;
}

/** Steps that a person may end by hand with one kind of command only. */
const AT: Readonly<Partial<Record<Command['do'], StepKey>>> = {
  code: 'ask-code',
  'back-up': 'back-up',
  protect: 'protect',
  'look-around': 'look-around',
  close: 'close',
};

const refuse = (because: Exclude<Refusal['because'], 'checks-open' | 'claims-open'>): Refusal => ({ because });
const weak = (what: string): Evidence => ({ what, strength: 'weak' });
const strong = (what: string): Evidence => ({ what, strength: 'strong' });

/** Carries out `command` at `moment`, or says why not. `now` is UTC milliseconds. */
export function decide(moment: Moment, command: Command, now: number): Decision | Refusal {
  const { round, steps } = moment;
  if (command.do === 'again') {
    if (round.state !== 'closed') return refuse('round-open');
    const { again, note } = command;
    return {
      ...NOTHING_DECIDED,
      round: { again, againNote: again === 'yes' ? null : note },
      events: [{ kind: 'same-way-again', data: { again, note } }],
    };
  }
  if (round.state !== 'open') return refuse('round-over');
  switch (command.do) {
    case 'begin':
      return begin(moment, command, now);
    case 'finish':
      return planAnewIfOther(
        endStep(moment, command.stepId, 'link', command.evidence, command.seen, now),
        moment,
        command.stepId,
        command.fresh,
        now,
      );
    case 'fail':
      return fail(moment, command);
    case 'interrupt':
      return interrupt(moment, command);
    case 'stand-before':
      return standBefore(moment, command);
    case 'settle':
      return withSettled({ ...NOTHING_DECIDED, steps }, moment, now);
    case 'plan-anew':
      return steps.some(({ state }) => state === 'running') ? refuse('step-runs') : planAnew(NOTHING_DECIDED, moment, steps, command.fresh, now);
    case 'slip':
      if (steps.some(({ state }) => state === 'running')) return refuse('step-runs');
      return planAnew(
        { ...NOTHING_DECIDED, ...seenAs(moment, command.seen, [{ kind: 'slip', data: { slip: 'early restart' } }]) },
        moment,
        steps,
        command.fresh,
        now,
      );
    case 'give-up':
      return steps.some(({ state }) => state === 'running')
        ? refuse('step-runs')
        : {
            ...NOTHING_DECIDED,
            round: { state: 'given-up', closedAt: now },
            events: [{ kind: 'round-given-up', data: { title: round.title } }],
          };
    default:
      return atStep(moment, command, now);
  }
}

type ByHand = Exclude<
  Command,
  { readonly do: 'begin' | 'finish' | 'fail' | 'interrupt' | 'stand-before' | 'settle' | 'plan-anew' | 'slip' | 'give-up' | 'again' }
>;

/** Commands that end, or are about, the step to do now. */
function atStep(moment: Moment, command: ByHand, now: number): Decision | Refusal {
  const step = currentStep(moment.steps);
  const at = AT[command.do];
  if (!step || (at !== undefined && step.key !== at)) return refuse('another-step');
  if (command.do === 'batch') return batch(moment, step, command, now);
  if (step.state === 'running') return refuse('step-runs-already');
  const end = (actor: Actor, evidence: readonly Evidence[], seen: Partial<Seen> = {}) =>
    endStep(moment, step.id, actor, evidence, { ...NOTHING_SEEN, ...seen }, now);
  switch (command.do) {
    case 'say': {
      if (DONE_HERE.includes(step.key)) return refuse('done-here');
      const open = blocking(command.checks, moment.round.overrides);
      if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
      return end('hand', [weak(say.said(command.words))], { slots: command.slots });
    }
    case 'paste':
      if (DEEDS[step.key].pastes !== true) return refuse('another-step');
      return planAnewIfOther(end('hand', command.evidence), moment, step.id, command.fresh, now);
    case 'code':
      return { ...end('hand', [weak(say.CODE_CAME)]), secrets: [{ name: 'code', value: command.code }] };
    case 'confirm':
      return confirm(moment, step, command, now);
    case 'back-up': {
      const note = command.note.trim();
      if (command.what !== 'none')
        return end('hand', [weak(say.backedUp(command.what, note))], { backups: [{ what: command.what, note: command.note }] });
      return note === '' ? refuse('no-reason') : end('hand', [{ ...weak(say.nothingKept(note)), nothingKept: note }]);
    }
    case 'protect': {
      const reason = command.reason.trim();
      if (command.rescuePage) return end('computer', [strong(say.RESCUE_PAGE)]);
      return reason === '' ? refuse('no-rescue-page') : end('hand', [weak(say.noRescuePage(reason))]);
    }
    case 'look-around': {
      const { data, calls, payments } = command.answers;
      return end('hand', [
        { ...weak(say.answered('data', data)), about: 'data-there' },
        { ...weak(say.answered('calls', calls)), about: 'calls' },
        { ...weak(say.answered('payments', payments)), about: 'payments' },
      ]);
    }
    case 'close':
      return close(moment, step, command, now);
  }
}

function begin({ round, steps }: Moment, { stepId, checks, overrides }: Extract<Command, { do: 'begin' }>, now: number): Decision | Refusal {
  const current = currentStep(steps);
  const step = steps.find(({ id }) => id === stepId);
  if (!current || !step || steps.indexOf(step) > steps.indexOf(current)) return refuse('another-step');
  if (steps.some(({ state }) => state === 'running')) return refuse('step-runs-already');
  const open = blocking(checks, [...round.overrides, ...overrides]);
  if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
  return { ...NOTHING_DECIDED, steps: changed(steps, stepId, { state: 'running', startedAt: step.startedAt ?? now, actor: 'link' }) };
}

const changed = (steps: readonly RoundStep[], stepId: string, change: Partial<RoundStep>): RoundStep[] =>
  steps.map((step) => (step.id === stepId ? { ...step, ...change } : step));

/** When the last of its steps was over, or it was begun. */
const lastEnd = (round: Round, steps: readonly DecidedStep[]) =>
  steps.reduce((latest, { endedAt }) => Math.max(latest, endedAt ?? 0), round.openedAt);

/** What a step saw, as what is kept of it. */
function seenAs({ root }: Moment, seen: Seen, events: readonly RoundEvent[] = []) {
  const told: readonly RoundEvent[] = seen.root === null || seen.root.state === root ? [] : [{ kind: 'root', data: seen.root }];
  return { slots: seen.slots, trials: seen.trials, backups: seen.backups, events: [...told, ...events] };
}

/** A step is over with what was seen; what follows and is proved already is over with it. */
function endStep(moment: Moment, stepId: string, actor: Actor, evidence: readonly Evidence[], seen: Seen, endedAt: number): Decision {
  const { round, steps, putBacks } = moment;
  const step = steps.find(({ id }) => id === stepId)!;
  const startedAt = step.startedAt ?? lastEnd(round, steps);
  const { opens } = DEEDS[step.key];
  const decision: Decision = {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen, [{ kind: 'step-done', data: { key: step.key, actor, seconds: (endedAt - startedAt) / 1000, evidence } }]),
    steps: changed(steps, stepId, { state: 'done', startedAt, endedAt, actor, evidence }),
    putBacks: {
      open: opens ? [{ kind: step.key, what: opens.what }] : [],
      close: putBacks.filter(({ kind }) => undoneBy(kind).includes(step.key)).map(({ id }) => ({ id, how: `step ${step.key}` })),
    },
  };
  return withSettled(decision, moment, endedAt);
}

/** Steps that follow and whose result is there already are over too. */
function withSettled(decision: Decision, { round, proves }: Moment, now: number): Decision {
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
function planAnewIfOther(decision: Decision, moment: Moment, stepId: string, fresh: FreshPlan | null, now: number): Decision {
  const { steps, round } = moment;
  if (fresh === null || steps.find(({ id }) => id === stepId)?.key !== 'read-facts') return decision;
  const waitingNow = (decision.steps ?? []).filter(({ state }) => state !== 'done');
  const listed = (ids: readonly string[] = []) => [...ids].sort().join();
  const same =
    listed(fresh.plan.modulesOff) === listed(round.plan.modulesOff) &&
    steps[0]?.planned.build === fresh.installed &&
    // what the vault has settled since is in neither
    waitingNow.every(({ key }) => fresh.steps.some((one) => one.key === key)) &&
    fresh.steps.every(({ key }) => steps.some((one) => one.key === key));
  return same ? decision : planAnew(decision, moment, decision.steps ?? [], fresh, now);
}

/** The steps that are done stay, all others are replaced. */
function planAnew(decision: Decision, moment: Moment, steps: readonly DecidedStep[], fresh: FreshPlan, now: number): Decision {
  const done = steps.filter(({ state }) => state === 'done');
  const told = new Set(done.map(({ key }) => key));
  const next = fresh.steps.filter(({ key }) => !((key === 'read-facts' || key === 'protect') && told.has(key)));
  const change: RoundChange = { lane: fresh.lane, plan: fresh.plan, target: fresh.target };
  return withSettled(
    {
      ...decision,
      round: { ...decision.round, ...change },
      steps: [...done, ...next.map(waiting)],
      events: [...decision.events, { kind: 'planned-anew', data: { lane: fresh.lane, goal: GOAL_WORDS[fresh.goal] } }],
    },
    { ...moment, round: { ...moment.round, ...change } },
    now,
  );
}

const inDoubt = (doubt: readonly Partition[], reason: string): SlotTelling[] =>
  doubt.map(({ partition, slot }) => ({ partition, slot, sha256: null, certainty: 'unknown', reason }));

function fail(moment: Moment, { stepId, error, written, doubt, seen }: Extract<Command, { do: 'fail' }>): Decision {
  const step = moment.steps.find(({ id }) => id === stepId)!;
  const evidence = say
    .failed(error.message, written, doubt.map(say.partitionName), DEEDS[step.key].writes !== null || step.planned.writes)
    .map(strong);
  const slots = [...seen.slots, ...inDoubt(doubt, say.CUT_SHORT)];
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, { ...seen, slots }, [{ kind: 'step-failed', data: { key: step.key, error, evidence } }]),
    steps: changed(moment.steps, stepId, { state: 'failed', evidence }),
  };
}

function interrupt({ steps }: Moment, { stepId, doubt }: Extract<Command, { do: 'interrupt' }>): Decision {
  const { key } = steps.find(({ id }) => id === stepId)!;
  return {
    ...NOTHING_DECIDED,
    steps: changed(steps, stepId, { state: 'interrupted', evidence: [strong(say.interrupted(doubt.map(say.partitionName)))] }),
    slots: inDoubt(doubt, say.ENDED_IN_WRITE),
    events: [{ kind: 'step-interrupted', data: { key } }],
  };
}

function standBefore(moment: Moment, { stepId, evidence, seen }: Extract<Command, { do: 'stand-before' }>): Decision {
  const from = moment.steps.findIndex(({ id }) => id === stepId);
  const again = { state: 'waiting', startedAt: null, endedAt: null, actor: null, evidence: [] } as const;
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen, [{ kind: 'stock-put-back', data: { evidence } }]),
    steps: moment.steps.map((step, i) => (i >= from ? { ...step, ...again } : step)),
  };
}

/** Lets the round past its checks, if each holds or may be overridden and was, with a reason. */
function confirm(moment: Moment, step: RoundStep, { checks, overrides }: Extract<Command, { do: 'confirm' }>, now: number): Decision | Refusal {
  if (checks === null) return refuse('no-checks');
  const open = blocking(checks, overrides);
  if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
  const used = overrides.filter((override) => checks.some(({ id, verdict }) => id === override.checkId && verdict !== 'holds'));
  const kept = [...moment.round.overrides.filter((one) => !used.some(({ checkId }) => checkId === one.checkId)), ...used];
  const round = { overrides: kept };
  if (step.key !== 'check') return { ...NOTHING_DECIDED, round };
  const evidence = checks.map((check): Evidence => {
    const override = used.find(({ checkId }) => checkId === check.id);
    return override ? weak(say.overridden(GATE_TITLES[check.id], override.reason)) : strong(say.checked(GATE_TITLES[check.id], sawWords(check.saw)));
  });
  return { ...endStep(moment, step.id, 'computer', evidence, NOTHING_SEEN, now), round };
}

/** A start with a batch of modules: what it came to, and what that says of each. By hand the step is over when every module is settled. */
function batch(
  moment: Moment,
  step: RoundStep,
  { batch: tried, outcome, before, after, stays, byHand }: Extract<Command, { do: 'batch' }>,
  now: number,
): Decision | Refusal {
  if (step.key !== 'modules-on') return refuse('another-step');
  const moduleTrials: ModuleTrial[] = [
    ...after.good.filter((id) => !before.good.includes(id)).map((module) => ({ module, outcome: 'worked' as const, note: say.STARTED_WITH_IT })),
    ...after.bad.filter((id) => !before.bad.includes(id)).map((module) => ({ module, outcome: 'looped' as const, note: say.NAMED_COMING_BACK })),
  ];
  const event: RoundEvent = { kind: 'module-batch', data: { batch: tried, outcome } };
  if (!byHand || !isDone(after)) return { ...NOTHING_DECIDED, events: [event], moduleTrials };
  const off = [...stays, ...after.bad];
  const evidence = [weak(say.startedWith(after.good)), ...(off.length > 0 ? [weak(say.staysOff(off))] : [])];
  const ended = endStep(moment, step.id, 'hand', evidence, NOTHING_SEEN, now);
  return { ...ended, events: [event, ...ended.events], moduleTrials };
}

const ROOT_AT_END = { yes: 'proven', no: 'unproven', gone: 'stock' } as const;

/** The last step and the round end together: a round is never left open with nothing to do. */
function close(moment: Moment, step: RoundStep, { claims, rootProved }: Extract<Command, { do: 'close' }>, now: number): Decision | Refusal {
  const bare = unproved(claims);
  if (bare.length > 0) return { because: 'claims-open', claims: bare.map(({ claim }) => claim) };
  const seen: Seen = {
    ...NOTHING_SEEN,
    root: rootProved === 'not asked' ? null : { state: ROOT_AT_END[rootProved], why: say.ROOT_AT_CLOSING[rootProved] },
    trials: rootProved === 'yes' ? [{ outcome: 'worked', note: say.ROOT_PROVED_IN_ROUND }] : [],
  };
  const ended = endStep(moment, step.id, 'computer', [strong(say.SIGNED_OFF)], seen, now);
  return {
    ...ended,
    round: { state: 'closed', closedAt: now },
    events: [...ended.events, { kind: 'round-closed', data: { title: moment.round.title } }],
  };
}
