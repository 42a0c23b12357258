import type { ClassId } from './classes';
import { CLASSES } from './classes';
import type { Way, WayId, Ways, WaySureness, WayValue, WayValues } from './way-kinds';
import { SURENESS, WAY_IDS } from './way-kinds';

/* A model's sheet: what somebody said or saw, and below it what its class often does. */

export interface SaidWay extends Way {
  readonly way: WayId;
}

const rank = (sureness: WaySureness) => SURENESS.indexOf(sureness);

/** The one that counts: the surer one, and of two as sure the newer. */
const counts = (one: Way, other: Way) =>
  rank(one.sureness) < rank(other.sureness) ||
  (one.sureness === other.sureness && (one.at ?? 0) >= (other.at ?? 0));

/** @returns what is known of each way, the surest and newest first; what nobody said is the class's guess */
export function sheetOf(said: readonly SaidWay[], handsetClass: ClassId | null): Ways {
  const known = new Map<WayId, Way>();
  for (const one of said) {
    const before = known.get(one.way);
    if (!before || counts(one, before)) known.set(one.way, one);
  }
  const guesses: WayValues = handsetClass === null ? {} : CLASSES[handsetClass].guesses;
  return <K extends WayId>(id: K) => {
    const one = known.get(id);
    if (one) return one as Way<WayValue<K>>;
    const guess = guesses[id] as WayValue<K> | undefined;
    return guess === undefined
      ? null
      : { value: guess, sureness: 'guessed', source: CLASSES[handsetClass!].title, at: null };
  };
}

/** A sheet of plain values, each as sure as is said. */
export const sheetFrom =
  (values: WayValues, sureness: WaySureness, source: string): Ways =>
  <K extends WayId>(id: K) => {
    const value = values[id] as WayValue<K> | undefined;
    return value === undefined ? null : { value, sureness, source, at: null };
  };

/** Root that is let in from inside is noted to be there after restarts. */
export function staysInside(ways: Ways): boolean {
  const way = ways('inside-lasts');
  return way !== null && way.sureness !== 'guessed' && way.value === 'lasting';
}

/** The same ways, and which of them were asked for. */
export function watched(ways: Ways): { readonly ways: Ways; readonly asked: () => readonly WayId[] } {
  const seen = new Set<WayId>();
  return {
    ways: (id) => {
      seen.add(id);
      return ways(id);
    },
    asked: () => WAY_IDS.filter((id) => seen.has(id)),
  };
}
