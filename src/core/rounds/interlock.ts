import { DEEDS } from '../steps/deeds';
import type { RoundStep } from './round';

/*
 * Where one restart too early loses root or the recovery: the round holds the person back (docs/method.md,
 * "Restart interlock").
 */

/** What of a step it looks at. */
export type InterlockStep = Pick<RoundStep, 'key' | 'state'> &
  Pick<RoundStep['planned'], 'holds' | 'starts' | 'offers'>;

export interface Interlock {
  readonly why: string;
  readonly opens: string;
  /** Restart offers that were refused, of so many that come. */
  readonly refused: number;
  readonly offers: number;
  /** What a restart now would cost. */
  readonly cost: string;
}

/**
 * What holds a restart back now, or null. `refusals` counts the offers that were refused since the hold
 * began.
 */
export function interlockOf(
  steps: readonly InterlockStep[],
  current: number | null,
  refusals: number,
): Interlock | null {
  if (current === null) return null;
  const begun = steps.slice(0, current + 1);
  let first = -1;
  begun.forEach((step, i) => {
    const running = i === current && step.state === 'running';
    // what comes before the step of now is over, and the one of now is begun here: a start ends every hold
    if (step.starts) first = -1;
    else if (step.holds && (step.state === 'done' || running) && first < 0) first = i;
  });
  if (first < 0) return null;
  const last = begun.filter((step, i) => i >= first && step.holds && step.state !== 'waiting').at(-1)!;
  const opens = steps.findIndex(
    (step, i) => i >= current && (step.starts || DEEDS[step.key].letsGo !== undefined),
  );
  const opening = steps[opens];
  if (!opening) return null;
  const { why, cost } = DEEDS[last.key].holds ?? {
    why: 'Something is half done.',
    cost: 'It would have to be done again.',
  };
  return {
    why,
    cost,
    opens: DEEDS[opening.key].letsGo ?? 'the step “Start the system”',
    refused: refusals,
    offers: steps.slice(first, opens).reduce((sum, step) => sum + step.offers, 0),
  };
}
