import type { Evidence } from '../rounds/evidence';
import type { RoundStep } from '../rounds/round';
import { workedSeconds } from '../rounds/worked';
import { DEEDS } from '../steps/deeds';

/*
 * How a round of practice went, step by step, against its plan: what was right, what was luck, what went wrong,
 * what that cost, and what would have shown it (docs/method.md, "Practice").
 */

/**
 * `right`: done, and shown. `luck`: done by a word alone where it could have been shown, or past a check. `wrong`:
 * it went otherwise at least once. `open`: not done yet.
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

export interface DebriefStep {
  readonly key: RoundStep['key'];
  readonly verdict: StepVerdict;
  /** Minutes that it took, and that the plan gave it: the most of the two that it names. */
  readonly minutes: number | null;
  readonly planned: number;
  /** What went wrong there, in the order in which it did. */
  readonly wrong: readonly string[];
  /** How it is done was asked for. */
  readonly hinted: boolean;
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
  /** The way was planned anew so often. */
  readonly anew: number;
}

export interface ToDebrief {
  readonly steps: readonly RoundStep[];
  readonly happened: readonly Happened[];
  /** Checks that were overridden, by their ids. */
  readonly overridden: readonly string[];
  /** Times that it was erased, by the handset's own count since the round began; and by the plan. */
  readonly wipes: number;
  readonly plannedWipes: number;
}

const isStrong = (evidence: readonly Evidence[]) => evidence.some(({ strength }) => strength === 'strong');
/** Somebody could have shown it. */
const canShow = ({ key }: RoundStep) => (DEEDS[key].shown ?? null) !== null;

function luckOf(step: RoundStep, overridden: readonly string[]): DebriefStep['luck'] {
  if (DEEDS[step.key].gates.some((gate) => overridden.includes(gate))) return 'past a check';
  return step.actor === 'hand' && canShow(step) && !isStrong(step.evidence) ? 'only said' : null;
}

function debriefStep(
  step: RoundStep,
  happened: readonly Happened[],
  overridden: readonly string[],
): DebriefStep {
  const wrong = happened.filter(
    ({ kind, key }) => key === step.key && (kind === 'failed' || kind === 'slip'),
  );
  const isOpen = step.state !== 'done';
  const luck = isOpen || wrong.length > 0 ? null : luckOf(step, overridden);
  const seconds = workedSeconds(step);
  return {
    key: step.key,
    verdict: wrong.length > 0 ? 'wrong' : isOpen ? 'open' : luck === null ? 'right' : 'luck',
    minutes: seconds === null ? null : seconds / 60,
    planned: step.planned.minutes[1],
    wrong: wrong.map(({ what }) => what),
    hinted: happened.some(({ kind, key }) => kind === 'hint' && key === step.key),
    luck,
    wouldShow: wrong.some(({ kind }) => kind === 'slip')
      ? 'the held restart'
      : luck === 'past a check'
        ? 'the check'
        : luck === 'only said' || (wrong.length > 0 && canShow(step))
          ? 'show it'
          : null,
  };
}

/** @returns one line a step, in the order of the round, and what they come to */
export function debrief({ steps, happened, overridden, wipes, plannedWipes }: ToDebrief): Debrief {
  const lines = steps.map((step) => debriefStep(step, happened, overridden));
  const count = (verdict: StepVerdict) => lines.filter((line) => line.verdict === verdict).length;
  const done = lines.filter(({ verdict }) => verdict !== 'open');
  const sum = (of: (line: DebriefStep) => number) => done.reduce((total, line) => total + of(line), 0);
  return {
    steps: lines,
    right: count('right'),
    luck: count('luck'),
    wrong: count('wrong'),
    hinted: lines.filter(({ hinted }) => hinted).length,
    minutes: sum(({ minutes }) => minutes ?? 0),
    planned: sum(({ planned }) => planned),
    wipes: Math.max(0, wipes - plannedWipes),
    anew: happened.filter(({ kind }) => kind === 'anew').length,
  };
}
