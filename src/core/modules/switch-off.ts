import type { Chance } from './chance';

/* What is switched off before an update (docs/method.md, "Modules"). */

/** All of them; those over a limit; none but what is known to loop. */
export type Caution = 'all' | 'by chance' | 'none';
export const CAUTIONS: readonly Caution[] = ['all', 'by chance', 'none'];
/** A chance from which on a module is off during an update, where the person names no other. */
export const PLAIN_LIMIT = 0.05;
/** A limit that a person may set. */
export const LIMIT_RANGE = [0.001, 0.9] as const;

export interface Judged {
  readonly id: string;
  readonly chance: Chance;
}

export interface SwitchOff {
  readonly id: string;
  readonly off: boolean;
  readonly why: string;
}

const percent = (share: number) => `${share < 0.1 ? (share * 100).toFixed(1) : Math.round(share * 100)} %`;

export function switchOff(
  modules: readonly Judged[],
  caution: Caution,
  limit: number = PLAIN_LIMIT,
): SwitchOff[] {
  return modules.map(({ id, chance }) => {
    if (chance.loopedHere)
      return {
        id,
        off: true,
        why: 'It is known to loop on this build: it stays off until another version is there.',
      };
    if (caution === 'all') return { id, off: true, why: 'You switch all of them off.' };
    const over = chance.mean > limit;
    if (caution === 'none') return { id, off: false, why: 'You leave them on.' };
    return {
      id,
      off: over,
      why: `${percent(chance.mean)} is ${over ? 'over' : 'not over'} your limit of ${percent(limit)}.`,
    };
  });
}
