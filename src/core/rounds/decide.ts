import type { Command, Looked, Moment } from './command';
import { lackingOf } from '../backups/backup-set';
import { blocking } from '../gates/check';
import { isDone } from '../modules/bring-back';
import type { StepKey } from '../steps/step-key';
import { DEEDS } from '../steps/deeds';
import { GATE_TITLES, sawWords } from '../words/gates';
import type { ClaimId } from '../words/claims';
import type { PlainReason, Refusal } from '../words/refusals';
import * as say from '../words/step-evidence';
import { answered } from './answer';
import type { Decision, ModuleTrial, RoundEvent } from './decision';
import { NOTHING_DECIDED } from './decision';
import type { Evidence } from './evidence';
import type { Actor, RoundStep, Seen } from './round';
import { currentStep, NOTHING_SEEN } from './round';
import { close } from './close';
import { provedAgain } from './prove-again';
import {
  changed,
  endStep,
  inDoubt,
  planAnew,
  planAnewIfOther,
  seenAs,
  strong,
  weak,
  withSettled,
} from './step-ends';

/*
 * What a command on a round comes to. Pure: it reads a moment and says what changes, or why nothing does
 * (docs/architecture.md, "Rounds").
 */

/** Steps that a person may end by hand with one kind of command only. */
const AT: Readonly<Partial<Record<Command['do'], readonly StepKey[]>>> = {
  // one that was refused is replaced where it was refused
  code: ['ask-code', 'unlock'],
  'back-up': ['back-up'],
  protect: ['protect'],
  'look-around': ['look-around'],
  close: ['close'],
};

const refuse = (because: PlainReason): Refusal => ({ because });

/** Carries out `command` at `moment`, or says why not. `now` is UTC milliseconds. */
export function decide(moment: Moment, command: Command, now: number): Decision | Refusal {
  const { round } = moment;
  if (command.do === 'again') return round.state === 'closed' ? saidAgain(command) : refuse('round-open');
  if (round.state !== 'open') return refuse('round-over');
  if (isHandCommand(command)) return atStep(moment, command, now);
  return isOverLink(command) ? overLink(moment, command, now) : aboutRound(moment, command, now);
}

type Of<D extends Command['do']> = Extract<Command, { readonly do: D }>;
type ByHand = Of<keyof typeof BY_HAND>;
type OverLink = Of<'begin' | 'finish' | 'sent' | 'fail' | 'interrupt' | 'stand-before'>;

const isHandCommand = (command: Command): command is ByHand => Object.hasOwn(BY_HAND, command.do);
const OVER_LINK: readonly Command['do'][] = ['begin', 'finish', 'sent', 'fail', 'interrupt', 'stand-before'];
const isOverLink = (command: Command): command is OverLink => OVER_LINK.includes(command.do);

const saidAgain = ({ again, note }: Of<'again'>): Decision => ({
  ...NOTHING_DECIDED,
  round: { again, againNote: again === 'yes' ? null : note },
  events: [{ kind: 'same-way-again', data: { again, note } }],
});

/** Commands of the job that does a step over the link. */
function overLink(moment: Moment, command: OverLink, now: number): Decision | Refusal {
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
    case 'sent':
      return sent(moment, command);
    case 'fail':
      return fail(moment, command);
    case 'interrupt':
      return interrupt(moment, command);
    case 'stand-before':
      return standBefore(moment, command);
  }
}

/** A restart that was held back, and came all the same. */
const EARLY: RoundEvent = { kind: 'slip', data: { slip: 'early restart' } };

/** Commands about the round as a whole. */
function aboutRound(
  moment: Moment,
  command: Of<'settle' | 'plan-anew' | 'restarted' | 'prove-again' | 'give-up'>,
  now: number,
): Decision | Refusal {
  const { round, steps } = moment;
  if (command.do === 'settle') return withSettled({ ...NOTHING_DECIDED, steps }, moment, now);
  // over the link its step is running then
  if (command.do === 'prove-again') return provedAgain(moment, command);
  if (steps.some(({ state }) => state === 'running')) return refuse('step-runs');
  switch (command.do) {
    case 'plan-anew':
      return planAnew(NOTHING_DECIDED, moment, steps, command.fresh, now);
    case 'restarted': {
      const told = seenAs(moment, command.seen, command.early ? [EARLY] : []);
      const after = { ...NOTHING_DECIDED, ...told };
      return command.fresh ? planAnew(after, moment, steps, command.fresh, now) : after;
    }
    case 'give-up':
      return {
        ...NOTHING_DECIDED,
        round: { state: 'given-up', closedAt: now },
        events: [{ kind: 'round-given-up', data: { title: round.title } }],
      };
  }
}

/** The step to do now, and what ends it. */
interface AtStep {
  readonly moment: Moment;
  readonly step: RoundStep;
  readonly now: number;
  readonly end: (actor: Actor, evidence: readonly Evidence[], seen?: Partial<Seen>) => Decision;
}

/** Commands that end, or are about, the step to do now. */
function atStep(moment: Moment, command: ByHand, now: number): Decision | Refusal {
  const step = currentStep(moment.steps);
  const wanted = AT[command.do];
  if (!step || wanted?.includes(step.key) === false) return refuse('another-step');
  // modules come back in batches while their step runs
  if (step.state === 'running' && command.do !== 'batch') return refuse('step-runs-already');
  const end: AtStep['end'] = (actor, evidence, seen = {}) =>
    endStep(moment, step.id, actor, evidence, { ...NOTHING_SEEN, ...seen }, now);
  return (BY_HAND[command.do] as (at: AtStep, command: ByHand) => Decision | Refusal)(
    { moment, step, now, end },
    command,
  );
}

const LOOKED_AT: readonly (readonly [Looked, ClaimId])[] = [
  ['data', 'data-there'],
  ['calls', 'calls'],
  ['payments', 'payments'],
];

const BY_HAND = {
  answer: ({ moment, step, now }: AtStep, command: Of<'answer'>) => answered(moment, step, command, now),
  code({ end, moment, step }: AtStep, { code }: Of<'code'>): Decision | Refusal {
    const secrets = [{ name: 'code' as const, value: code }];
    if (step.key === 'ask-code') return { ...end('hand', [weak(say.CODE_CAME)]), secrets };
    if (!moment.steps.some(({ key }) => key === 'ask-code')) return refuse('another-step');
    const again = { state: 'waiting' as const, evidence: [weak(say.OTHER_CODE)], endedAt: null };
    return { ...NOTHING_DECIDED, steps: changed(moment.steps, step.id, again), secrets };
  },
  confirm: ({ moment, step, now }: AtStep, command: Of<'confirm'>) => confirm(moment, step, command, now),
  'back-up'({ end }: AtStep, { what, note, parts }: Of<'back-up'>): Decision | Refusal {
    const said = note.trim();
    if (what !== 'none') {
      const lacking = lackingOf(what, parts);
      return end(
        'hand',
        [
          weak(say.backedUp(what, said)),
          ...(lacking.length > 0 ? [weak(say.backupLacks(lacking))] : [weak(say.BACKUP_WHOLE)]),
        ],
        { backups: [{ what, note, parts }] },
      );
    }
    return said === ''
      ? refuse('no-reason')
      : end('hand', [{ ...weak(say.nothingKept(said)), nothingKept: said }]);
  },
  protect({ end }: AtStep, { rescuePage, reason }: Of<'protect'>): Decision | Refusal {
    if (rescuePage) return end('computer', [strong(say.RESCUE_PAGE)]);
    return reason.trim() === ''
      ? refuse('no-rescue-page')
      : end('hand', [weak(say.noRescuePage(reason.trim()))]);
  },
  'look-around': ({ end }: AtStep, { answers, note, apps }: Of<'look-around'>): Decision => ({
    ...end('hand', [
      ...LOOKED_AT.map(([what, about]): Evidence => ({
        ...weak(say.answered(what, answers[what])),
        about,
        ...(answers[what] === 'does not work' ? { says: 'no' } : {}),
      })),
      ...apps.map(({ name, how }) => weak(say.appSeen(name, how))),
      ...(note.trim() === '' ? [] : [weak(say.said(note.trim()))]),
    ]),
    apps,
  }),
  batch: ({ moment, step, now }: AtStep, command: Of<'batch'>) => batch(moment, step, command, now),
  close: ({ moment, step, now }: AtStep, command: Of<'close'>) => close(moment, step, command, now),
} as const;

function begin(
  { round, steps }: Moment,
  { stepId, checks, overrides }: Extract<Command, { do: 'begin' }>,
  now: number,
): Decision | Refusal {
  const current = currentStep(steps);
  const step = steps.find(({ id }) => id === stepId);
  if (!current || !step || steps.indexOf(step) > steps.indexOf(current)) return refuse('another-step');
  if (steps.some(({ state }) => state === 'running')) return refuse('step-runs-already');
  const open = blocking(checks, [...round.overrides, ...overrides]);
  if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
  return {
    ...NOTHING_DECIDED,
    steps: changed(steps, stepId, { state: 'running', startedAt: step.startedAt ?? now, actor: 'link' }),
  };
}

function sent(moment: Moment, { stepId, evidence, seen }: Extract<Command, { do: 'sent' }>): Decision {
  const { key } = moment.steps.find(({ id }) => id === stepId)!;
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen, [{ kind: 'step-sent', data: { key, evidence } }]),
    steps: changed(moment.steps, stepId, { state: 'waiting', evidence }),
  };
}

function fail(
  moment: Moment,
  { stepId, error, written, doubt, seen }: Extract<Command, { do: 'fail' }>,
): Decision {
  const step = moment.steps.find(({ id }) => id === stepId)!;
  const evidence = say
    .failed(
      error.message,
      written,
      doubt.map(say.partitionName),
      DEEDS[step.key].writes !== null || step.planned.writes,
    )
    .map(strong);
  const slots = [...seen.slots, ...inDoubt(doubt, say.CUT_SHORT)];
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, { ...seen, slots }, [
      { kind: 'step-failed', data: { key: step.key, error, evidence } },
    ]),
    steps: changed(moment.steps, stepId, { state: 'failed', evidence }),
  };
}

function interrupt({ steps }: Moment, { stepId, doubt }: Extract<Command, { do: 'interrupt' }>): Decision {
  const { key } = steps.find(({ id }) => id === stepId)!;
  return {
    ...NOTHING_DECIDED,
    steps: changed(steps, stepId, {
      state: 'interrupted',
      evidence: [strong(say.interrupted(doubt.map(say.partitionName)))],
    }),
    slots: inDoubt(doubt, say.ENDED_IN_WRITE),
    events: [{ kind: 'step-interrupted', data: { key } }],
  };
}

function standBefore(
  moment: Moment,
  { stepId, evidence, seen }: Extract<Command, { do: 'stand-before' }>,
): Decision {
  const from = moment.steps.findIndex(({ id }) => id === stepId);
  const again = { state: 'waiting', startedAt: null, endedAt: null, actor: null, evidence: [] } as const;
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seen, [{ kind: 'stock-put-back', data: { evidence } }]),
    steps: moment.steps.map((step, i) => (i >= from ? { ...step, ...again } : step)),
  };
}

/** Lets the round past its checks, if each holds or may be overridden and was, with a reason. */
function confirm(
  moment: Moment,
  step: RoundStep,
  { checks, overrides }: Extract<Command, { do: 'confirm' }>,
  now: number,
): Decision | Refusal {
  if (checks === null) return refuse('no-checks');
  const open = blocking(checks, overrides);
  if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
  const used = overrides.filter((override) =>
    checks.some(({ id, verdict }) => id === override.checkId && verdict !== 'holds'),
  );
  const kept = [
    ...moment.round.overrides.filter((one) => !used.some(({ checkId }) => checkId === one.checkId)),
    ...used,
  ];
  const round = { overrides: kept };
  if (step.key !== 'check') return { ...NOTHING_DECIDED, round };
  const evidence = checks.map((check): Evidence => {
    const override = used.find(({ checkId }) => checkId === check.id);
    return override
      ? weak(say.overridden(GATE_TITLES[check.id], override.reason))
      : strong(say.checked(GATE_TITLES[check.id], sawWords(check.saw)));
  });
  return { ...endStep(moment, step.id, 'computer', evidence, NOTHING_SEEN, now), round };
}

/**
 * A start with a batch of modules: what it came to, and what that says of each. By hand the step is over when
 * every module is settled.
 */
function batch(
  moment: Moment,
  step: RoundStep,
  { batch: tried, outcome, before, after, stays, byHand }: Extract<Command, { do: 'batch' }>,
  now: number,
): Decision | Refusal {
  if (step.key !== 'modules-on') return refuse('another-step');
  const moduleTrials: ModuleTrial[] = [
    ...after.good
      .filter((id) => !before.good.includes(id))
      .map((module) => ({ module, outcome: 'worked' as const, note: say.STARTED_WITH_IT })),
    ...after.bad
      .filter((id) => !before.bad.includes(id))
      .map((module) => ({ module, outcome: 'looped' as const, note: say.NAMED_COMING_BACK })),
  ];
  const event: RoundEvent = { kind: 'module-batch', data: { batch: tried, outcome } };
  if (!byHand || !isDone(after)) return { ...NOTHING_DECIDED, events: [event], moduleTrials };
  const off = [...stays, ...after.bad];
  const evidence = [weak(say.startedWith(after.good)), ...(off.length > 0 ? [weak(say.staysOff(off))] : [])];
  const ended = endStep(moment, step.id, 'hand', evidence, NOTHING_SEEN, now);
  return { ...ended, events: [event, ...ended.events], moduleTrials };
}
