import { ADVISED, ASKS_ALL, BY_LADDER, measured } from '../tests/fixtures/rescue-cases';

/* How well broken handsets are brought back: by what is advised, by a fixed ladder, and by asking everything. */

const CASES = 3000;

export interface RescueShares {
  /** Of those that anything could mend. */
  readonly back: number;
  readonly wipedInVain: number;
  readonly wipes: number;
  readonly checks: number;
  readonly minutes: number;
  /** Minutes in relation to a fixed ladder, and to asking everything first. */
  readonly ofLadder: number;
  readonly ofAskingAll: number;
  /** Restarts in relation to a fixed ladder. */
  readonly restartsOfLadder: number;
}

/** @param evenly every cause as often as the next, whatever the priors say */
export function measureRescue(evenly: boolean): RescueShares {
  const [advised, ladder, all] = [ADVISED, BY_LADDER, ASKS_ALL].map((policy) =>
    measured(CASES, policy, evenly),
  );
  return {
    back: advised!.back,
    wipedInVain: advised!.inVain,
    wipes: advised!.wipes,
    checks: advised!.checks,
    minutes: advised!.minutes,
    ofLadder: advised!.minutes / ladder!.minutes,
    ofAskingAll: advised!.minutes / all!.minutes,
    restartsOfLadder: advised!.restarts / ladder!.restarts,
  };
}
