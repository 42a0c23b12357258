import { STUCK_FACTOR } from '../steps/step-kind';
import { STEP_KINDS } from '../steps/step-table';
import type { RoundStep } from './round';

/* How long a step took. A person who left it lying was not at work on it. */

type Timed = Pick<RoundStep, 'key' | 'startedAt' | 'endedAt'>;

/** A person reads, types and looks things up: so many seconds may always be work. */
const UNHURRIED = 900;
const longest = ({ key }: Timed) => Math.max(STEP_KINDS[key].seconds[1] * STUCK_FACTOR, UNHURRIED);

/** Seconds from its beginning to its end; null where it is not over. */
const stood = ({ startedAt, endedAt }: Timed): number | null =>
  startedAt === null || endedAt === null ? null : (endedAt - startedAt) / 1000;

/** It stood longer than a step of its kind can take: somebody paused in it, so its time teaches nothing. */
export function wasPaused(step: Timed): boolean {
  const seconds = stood(step);
  return seconds !== null && seconds > longest(step);
}

/** Seconds of work; of a step with a pause at most what one of its kind can take. Null where it is not over. */
export function workedSeconds(step: Timed): number | null {
  const seconds = stood(step);
  return seconds === null ? null : Math.min(seconds, longest(step));
}

/** Seconds of work of a whole round. */
export const workedOn = (steps: readonly Timed[]): number =>
  steps.reduce((sum, step) => sum + (workedSeconds(step) ?? 0), 0);
