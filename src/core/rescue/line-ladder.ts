import type { CauseId, RungId } from '../words/rescue';
import type { Believed } from './belief';

/*
 * A handset that the computer does not list: a short ladder of its own. What cured it on this cable and this
 * computer before comes first (docs/method.md, "Rescue").
 */

export interface Rung {
  readonly minutes: number;
  readonly cause: CauseId;
  /** Of the cases of its cause, how many it cures; stated, by what is told. */
  readonly share: number;
  /** Whether it hangs on the cable or on the computer. */
  readonly by: 'cable' | 'host';
}

export const RUNGS: Readonly<Record<RungId, Rung>> = {
  'plug-again': { minutes: 0.5, cause: 'cable', share: 0.25, by: 'cable' },
  'other-port': { minutes: 1, cause: 'cable', share: 0.3, by: 'host' },
  'other-cable': { minutes: 1.5, cause: 'cable', share: 0.4, by: 'cable' },
  'select-again': { minutes: 0.5, cause: 'driver', share: 0.2, by: 'host' },
  'close-programs': { minutes: 1, cause: 'driver', share: 0.35, by: 'host' },
  'put-driver': { minutes: 6, cause: 'driver', share: 0.4, by: 'host' },
  'allow-computer': { minutes: 1, cause: 'debugging-off', share: 0.5, by: 'host' },
  'debugging-on': { minutes: 3, cause: 'debugging-off', share: 0.45, by: 'host' },
};
export const RUNG_IDS = Object.keys(RUNGS) as readonly RungId[];

/** A line: what is between the two; null where nobody named it. */
export interface Line {
  readonly cable: string | null;
  readonly host: string | null;
}
/** What cured a line once. */
export interface Cure extends Line {
  readonly rung: RungId;
}

export interface OnLadder {
  readonly rung: RungId;
  /** Of 1. */
  readonly chance: number;
  readonly minutes: number;
  /** How often it cured this cable, or this computer. */
  readonly before: number;
}

/** The stated share counts as so many cases. */
const STATED = 4;
/** A rung that was tried well is not quite out. */
const TRIED = 0.05;

const isSame = (one: string | null, other: string | null) =>
  one !== null && other !== null && one.trim().toLowerCase() === other.trim().toLowerCase();

/**
 * The rungs, what cures most a minute first.
 * @param believed of the causes, after everything but the ladder
 */
export function lineLadder(
  believed: readonly Believed[],
  cures: readonly Cure[],
  line: Line,
  tried: readonly RungId[],
): OnLadder[] {
  const here = cures.filter((cure) =>
    RUNGS[cure.rung].by === 'cable' ? isSame(cure.cable, line.cable) : isSame(cure.host, line.host),
  );
  const chanceOf = (cause: CauseId) => believed.find((one) => one.cause === cause)?.chance ?? 0;
  // what was seen of this very line counts beside what is believed of all lines
  const known = here.length;
  return RUNG_IDS.map((rung): OnLadder => {
    const { minutes, cause, share } = RUNGS[rung];
    const before = here.filter((cure) => cure.rung === rung).length;
    const chance = (STATED * chanceOf(cause) * share + before) / (STATED + known);
    return { rung, minutes, before, chance: tried.includes(rung) ? chance * TRIED : chance };
  }).sort((a, b) => b.chance / b.minutes - a.chance / a.minutes);
}
