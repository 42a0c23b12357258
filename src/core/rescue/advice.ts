import type { CauseId, RepairId } from '../words/rescue';
import type { Believed, NextCheck, Seen } from './belief';
import { nextChecks } from './belief';
import { CAUSES } from './causes';
import type { Offered, Works } from './repairs';
import { repairsFor } from './repairs';

/* What to do next: ask, or mend (docs/method.md, "Rescue"). */

export interface Advice {
  /** `stop`: nothing is left that could work: the seller, or a repairer. */
  readonly next: 'check' | 'repair' | 'stop';
  readonly checks: readonly NextCheck[];
  readonly repairs: readonly Offered[];
  /** What would help most, and can't be done as things are; null where nothing stands in its way. */
  readonly wanting: Offered | null;
}

/** A repair that is as likely to work as this is done without asking more. */
const SURE = 0.8;
/** A repair of so few minutes, as likely as this, is tried before a longer question. */
const EASY = { minutes: 4, chance: 0.35 } as const;
/** A question that is worth less a minute is not asked. */
const LEAST_BITS_A_MINUTE = 0.02;
/** So likely that only a repairer can help: then nothing is written any more. */
const BEYOND_REPAIR = 0.5;

const chanceOf = (believed: readonly Believed[], causes: readonly CauseId[]) =>
  believed.filter(({ cause }) => causes.includes(cause)).reduce((sum, { chance }) => sum + chance, 0);

const mendsAtOnce = ({ chance, minutes }: Offered, check: NextCheck) =>
  chance >= SURE || (chance >= EASY.chance && minutes <= EASY.minutes && check.minutes >= minutes);

/**
 * @param tried repairs that were done
 * @param barred repairs that a gate refuses, or that lack their file
 */
export function adviceOf(
  believed: readonly Believed[],
  works: Works,
  seen: Seen,
  tried: readonly RepairId[],
  barred: readonly RepairId[] = [],
): Advice {
  const checks = nextChecks(believed, seen);
  const told = believed.filter(({ cause }) => explains(cause, seen));
  const repairs = repairsFor(told, works, tried, barred);
  const [best] = repairsFor(told, works, tried);
  const wanting =
    best !== undefined && barred.includes(best.repair) && best.chance > (repairs[0]?.chance ?? 0)
      ? best
      : null;
  return { next: nextOf(believed, works, checks, repairs), checks, repairs, wanting };
}

/** What leads to none of the symptoms by itself is no reason to do anything. */
const explains = (cause: CauseId, { symptoms }: Seen) =>
  symptoms.length === 0 || symptoms.some((symptom) => CAUSES[cause].shows[symptom] !== undefined);

function nextOf(
  believed: readonly Believed[],
  works: Works,
  [check]: readonly NextCheck[],
  [repair]: readonly Offered[],
): Advice['next'] {
  const tells = check !== undefined && check.bits / check.minutes >= LEAST_BITS_A_MINUTE;
  if (tells && repair !== undefined && !repair.wipes && mendsAtOnce(repair, check)) return 'repair';
  if (tells) return 'check';
  const beyond = chanceOf(believed, works.seller);
  return repair === undefined || (beyond > BEYOND_REPAIR && beyond > repair.chance) ? 'stop' : 'repair';
}
