import type { Evidence } from '../rounds/evidence';
import type { RoundStep } from '../rounds/round';
import { workedSeconds } from '../rounds/worked';
import { DEEDS } from '../steps/deeds';
import type { TrueState, Untrue } from './true-state';
import { untrueOf } from './true-state';

/*
 * How a round of practice went, step by step, against its plan: what was right, what was luck, what went wrong,
 * what that cost, and what would have shown it (docs/method.md, "Practice").
 */

/**
 * `right`: done, and shown. `luck`: done by a word alone where it could have been shown, and the handset was so; or
 * past a check. `wrong`: it went otherwise at least once, or was only said and was not so. `open`: not done yet.
 */
export type StepVerdict = 'right' | 'luck' | 'wrong' | 'open';

/** What happened in a round, beside its steps. */
export interface Happened {
  readonly at: number;
  /** `hint` how it is done was asked for; `failed` a step; `slip` a restart that was held back and came; `undone` the stock image put back; `anew` planned. */
  readonly kind: 'hint' | 'failed' | 'slip' | 'undone' | 'anew';
  readonly key: string | null;
  /** What was seen, in words. */
  readonly what: string;
}

/** What the handset truly was when a step had ended. */
export interface TrulyThen {
  readonly at: number;
  readonly key: string;
  /** The step was done then; else it had failed. */
  readonly done: boolean;
  readonly state: TrueState;
}

export interface DebriefStep {
  readonly key: RoundStep['key'];
  readonly verdict: StepVerdict;
  /** Minutes that it took, waits in their real length, and that the plan gave it: the most of the two that it names. */
  readonly minutes: number | null;
  readonly planned: number;
  /** What went wrong there, in the order in which it did. */
  readonly wrong: readonly string[];
  /** How it is done was asked for. */
  readonly hinted: boolean;
  /** It was said to be done, and this was not so. */
  readonly untrue: readonly Untrue[];
  /** Why it was luck. */
  readonly luck: 'only said' | 'past a check' | null;
  /** What was to be shown, or the check that was overridden, so that it had been known. */
  readonly wouldShow: 'show it' | 'the check' | 'the held restart' | null;
}

export interface Debrief {
  readonly steps: readonly DebriefStep[];
  readonly right: number;
  readonly luck: number;
  readonly wrong: number;
  /** Steps for which a hint was asked. */
  readonly hinted: number;
  /** Minutes that were worked, and that the plan took: of what is done. */
  readonly minutes: number;
  readonly planned: number;
  /** Times that everything on it was erased though the plan did not. */
  readonly wipes: number;
  /** Minutes in which root was not there though the plan has it, from the end of a step to that of the next. */
  readonly rootless: number;
  /** The way was planned anew so often, and the stock image put back so often. */
  readonly anew: number;
  readonly undone: number;
}

export interface ToDebrief {
  /** In their order. */
  readonly steps: readonly RoundStep[];
  readonly happened: readonly Happened[];
  /** In the order of their times; none where nobody noted it. */
  readonly truly: readonly TrulyThen[];
  /** Checks that were overridden, by their ids. */
  readonly overridden: readonly string[];
  /** By how much quicker than on a real handset its waits passed. */
  readonly pace: number;
}

const isStrong = (evidence: readonly Evidence[]) => evidence.some(({ strength }) => strength === 'strong');
/** Somebody could have shown it. */
const canShow = ({ key }: RoundStep) => (DEEDS[key].shown ?? null) !== null;

function luckOf(step: RoundStep, overridden: readonly string[]): DebriefStep['luck'] {
  if (DEEDS[step.key].gates.some((gate) => overridden.includes(gate))) return 'past a check';
  return step.actor === 'hand' && canShow(step) && !isStrong(step.evidence) ? 'only said' : null;
}

/** What was noted of the handset when a step was done, and when whatever was before it had ended. */
function noted(step: RoundStep, truly: readonly TrulyThen[]) {
  const at = truly.findIndex(
    (one) => one.done && one.key === step.key && step.endedAt !== null && one.at >= step.endedAt,
  );
  return {
    then: truly[at]?.state ?? null,
    before: at > 0 ? truly[at - 1]!.state : null,
  };
}

function minutesOf(step: RoundStep, { then, before }: ReturnType<typeof noted>, pace: number): number | null {
  const seconds = workedSeconds(step);
  if (seconds === null) return null;
  const waited = then && before ? (then.waitedMs - before.waitedMs) / 1000 : 0;
  // what passed quicker is counted in its real length
  return (seconds + waited * (1 - 1 / pace)) / 60;
}

function verdictOf(step: RoundStep, isWrong: boolean, isLuck: boolean): StepVerdict {
  if (isWrong) return 'wrong';
  if (step.state !== 'done') return 'open';
  return isLuck ? 'luck' : 'right';
}

function debriefStep(step: RoundStep, next: RoundStep | null, all: ToDebrief): DebriefStep {
  const { happened, truly, overridden, pace } = all;
  const wrong = happened.filter(
    ({ kind, key }) => key === step.key && (kind === 'failed' || kind === 'slip'),
  );
  const lucky = step.state === 'done' ? luckOf(step, overridden) : null;
  const was = noted(step, truly);
  const untrue =
    lucky === 'only said' && was.then
      ? untrueOf(step.planned, next?.planned ?? null, was.then, was.before)
      : [];
  const luck = wrong.length > 0 || untrue.length > 0 ? null : lucky;
  return {
    key: step.key,
    verdict: verdictOf(step, wrong.length > 0 || untrue.length > 0, luck !== null),
    minutes: minutesOf(step, was, pace),
    planned: step.planned.minutes[1],
    wrong: wrong.map(({ what }) => what),
    hinted: happened.some(({ kind, key }) => kind === 'hint' && key === step.key),
    untrue,
    luck,
    wouldShow: wouldShow(step, wrong, lucky),
  };
}

function wouldShow(
  step: RoundStep,
  wrong: readonly Happened[],
  lucky: DebriefStep['luck'],
): DebriefStep['wouldShow'] {
  if (wrong.some(({ kind }) => kind === 'slip')) return 'the held restart';
  if (lucky === 'past a check') return 'the check';
  return lucky === 'only said' || (wrong.length > 0 && canShow(step)) ? 'show it' : null;
}

/** Times that everything was erased while these steps were done, beyond those of the plan. */
function wipesOf({ steps, truly }: ToDebrief): number {
  const [first, last] = [truly[0], truly.at(-1)];
  if (!first || !last) return 0;
  const planned = steps.filter(({ state, planned: { erases } }) => state === 'done' && erases).length;
  return Math.max(0, last.state.wipes - first.state.wipes - planned);
}

/** Whether root runs by the plan after what was noted: after its step where that was done, else after the one before. */
function rootByPlan(steps: readonly RoundStep[], { key, done, at }: TrulyThen): boolean {
  const before = steps.findLast(
    ({ endedAt, state }) => state === 'done' && endedAt !== null && endedAt <= at,
  );
  const own = done
    ? steps.findLast((step) => step.key === key && step.endedAt !== null && step.endedAt <= at)
    : null;
  return (own ?? before)?.planned.rootAfter === true;
}

function rootlessMinutes({ steps, truly }: ToDebrief): number {
  const lost = truly.slice(0, -1).reduce((sum, one, i) => {
    const gone = one.state.rooted === false && rootByPlan(steps, one);
    return sum + (gone ? truly[i + 1]!.at - one.at : 0);
  }, 0);
  return lost / 60_000;
}

/** @returns one line a step, in the order of the round, and what they come to */
export function debrief(all: ToDebrief): Debrief {
  const lines = all.steps.map((step, i) => debriefStep(step, all.steps[i + 1] ?? null, all));
  const count = (verdict: StepVerdict) => lines.filter((line) => line.verdict === verdict).length;
  const times = (kind: Happened['kind']) => all.happened.filter((one) => one.kind === kind).length;
  const done = lines.filter(({ minutes }) => minutes !== null);
  const sum = (of: (line: DebriefStep) => number) => done.reduce((total, line) => total + of(line), 0);
  return {
    steps: lines,
    right: count('right'),
    luck: count('luck'),
    wrong: count('wrong'),
    hinted: lines.filter(({ hinted }) => hinted).length,
    minutes: sum(({ minutes }) => minutes ?? 0),
    planned: sum(({ planned }) => planned),
    wipes: wipesOf(all),
    rootless: rootlessMinutes(all),
    anew: times('anew'),
    undone: times('undone'),
  };
}
