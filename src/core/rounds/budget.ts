import { LEAST_BATTERY_PERCENT } from '../handset/variables';
import type { NewStep } from './round';
import { DEEDS, PARTS_WRITES } from '../steps/deeds';
import type { BudgetSays } from '../words/budget';

/*
 * What goes before the first step is done: what each step erases, and whether battery and room last
 * (docs/method.md, "Before the first step").
 */

export interface WipeLine {
  readonly step: string;
  readonly erases: readonly string[];
  readonly keeps: readonly string[];
}

const EVERYTHING = [
  'apps and their data',
  'files on its storage',
  'accounts, screen lock and fingerprints',
  'debugging and the trust of this computer',
];

/** What each step of a round erases, and what of it exists nowhere else. */
export function wipeLedger(
  steps: readonly NewStep[],
  titleOf: (step: NewStep) => string,
  rooted: boolean,
): WipeLine[] {
  return steps.flatMap((step): WipeLine[] => {
    const { key, planned } = step;
    if (planned.erases)
      return [
        {
          step: titleOf(step),
          erases: [
            ...EVERYTHING,
            ...(rooted ? ['modules and what they set'] : []),
            'also on a card that is used as internal storage',
          ],
          keeps: ['what lies in the vault', 'a card, if you take it out first'],
        },
      ];
    if (PARTS_WRITES.includes(key))
      return [
        {
          step: titleOf(step),
          erases: ['root, recovery and every changed image on that slot'],
          keeps: ['apps, files and settings'],
        },
      ];
    return [];
  });
}

export interface Budget {
  readonly verdict: 'enough' | 'short' | 'unknown';
  readonly says: BudgetSays;
}

/** Percent a minute of screen and writing, with the cable in a port that hardly charges; a stated prior. */
const DRAIN_PER_MINUTE = 0.5;
const USUAL_PERCENT = 50;
const MARGIN = 1.5;

/** Battery by arithmetic: what the slow round drains, half as much again, over the floor. */
export function batteryBudget(steps: readonly NewStep[], batteryPercent: number | null): Budget {
  const minutes = steps
    .filter((step) => step.planned.mode !== 'computer' && DEEDS[step.key].waits !== true)
    .reduce((sum, step) => sum + step.planned.minutes[1], 0);
  const need = Math.min(
    100,
    Math.max(USUAL_PERCENT, Math.ceil(LEAST_BATTERY_PERCENT + DRAIN_PER_MINUTE * minutes * MARGIN)),
  );
  const drain = Math.ceil(DRAIN_PER_MINUTE * minutes * MARGIN);
  return {
    verdict: batteryPercent === null ? 'unknown' : batteryPercent >= need ? 'enough' : 'short',
    says: {
      code: 'battery',
      need,
      drain,
      least: LEAST_BATTERY_PERCENT,
      minutes: Math.round(minutes),
      has: batteryPercent,
    },
  };
}

/** Room on the disk of the vault for what is still to be made, in bytes. */
export const roomBudget = (need: number, free: number | null): Budget => ({
  verdict: free === null ? 'unknown' : free > need * 2 ? 'enough' : 'short',
  says: { code: 'room', need, free },
});
