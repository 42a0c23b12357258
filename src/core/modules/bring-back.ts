/*
 * Coming back in batches that cost the fewest restarts: group testing with known chances, anew after each
 * outcome (docs/method.md, "Coming back").
 */

export interface Candidate {
  readonly id: string;
  /** That it breaks this build, 0 to 1; each for itself. */
  readonly chance: number;
}

export interface BringBackCosts {
  /** One restart with a batch switched on. */
  readonly restart: number;
  /** What a loop costs beyond that: the way out of it. */
  readonly loop: number;
}
const START_MINUTES = 3;
/** The stock image written back from the bootloader, and root again after it. */
const WRITE_BACK_MINUTES = 15;

/**
 * Minutes. A loop is over when the kit has rested its modules, where it does so, else when the stock image is
 * written back.
 * @param restsAfter failed starts in a row; null where the kit says nothing
 */
export const costsWith = (restsAfter: number | null): BringBackCosts => ({
  restart: START_MINUTES,
  loop: restsAfter === null ? WRITE_BACK_MINUTES : restsAfter * START_MINUTES,
});

export interface BringBack {
  /** Known to be good on this build, on. */
  readonly good: readonly string[];
  /** Nothing is known of them yet. */
  readonly free: readonly Candidate[];
  /** At least one of these breaks it. */
  readonly suspects: readonly Candidate[];
  /** Named with certainty. */
  readonly bad: readonly string[];
}

export interface NextBatch {
  readonly batch: readonly string[];
  /** That the start with it goes well. */
  readonly goesWell: number;
  /** Restarts and loops that are still to be expected, this one included. */
  readonly restarts: number;
  readonly loops: number;
}

export const MOST_MODULES = 200;
/** A chance of nought or one would leave the search nothing to compare. */
const clamp = (chance: number) => Math.min(0.995, Math.max(0.0005, chance));

export const beginBringBack = (candidates: readonly Candidate[]): BringBack => ({
  good: [],
  free: candidates.slice(0, MOST_MODULES).map(({ id, chance }) => ({ id, chance: clamp(chance) })),
  suspects: [],
  bad: [],
});

interface Value {
  readonly cost: number;
  readonly restarts: number;
  readonly loops: number;
  /** Length of the best batch; 0 where nothing is left to try. */
  readonly take: number;
  readonly goesWell: number;
}
const NOTHING: Value = { cost: 0, restarts: 0, loops: 0, take: 0, goesWell: 1 };

/**
 * The best batches over a list whose first `m` are suspects: values by place `i` in the list and by `m`. A
 * batch is always the front of the list. After a loop the batch is what is suspected and the rest is free
 * again; after a start it is good, and what was suspected behind it still is.
 */
function bestBatch(list: readonly Candidate[], m: number, { restart, loop }: BringBackCosts): Value {
  const n = list.length;
  const known = new Map<number, Value>();
  /** That all of `from` up to `to` are good. */
  const all: number[][] = list.map((_one, from) => {
    const row: number[] = [];
    for (let to = from, q = 1; to <= n; to += 1) {
      row[to] = q;
      if (to < n) q *= 1 - list[to]!.chance;
    }
    return row;
  });
  const good = (from: number, to: number) => (from >= n ? 1 : all[from]![to]!);
  const value = (i: number, suspected: number): Value => {
    if (i >= n) return NOTHING;
    if (suspected === 1) return value(i + 1, 0);
    const key = i * (n + 1) + suspected;
    const held = known.get(key);
    if (held) return held;
    let best: Value | null = null;
    const none = suspected === 0 ? 0 : good(i, i + suspected);
    for (let take = 1; take <= (suspected === 0 ? n - i : suspected - 1); take += 1) {
      const goesWell =
        suspected === 0 ? good(i, i + take) : Math.max(0, (good(i, i + take) - none) / (1 - none));
      const after = value(i + take, suspected === 0 ? 0 : suspected - take);
      const looped = value(i, take);
      const cost = restart + goesWell * after.cost + (1 - goesWell) * (loop + looped.cost);
      if (best && best.cost <= cost) continue;
      const restarts = 1 + goesWell * after.restarts + (1 - goesWell) * looped.restarts;
      const loops = goesWell * after.loops + (1 - goesWell) * (1 + looped.loops);
      best = { cost, restarts, loops, take, goesWell };
    }
    known.set(key, best!);
    return best!;
  };
  // from the back, so that no chain of calls grows long
  for (let i = n - 1; i >= 0; i -= 1) value(i, 0);
  return value(0, m);
}

const byChance = (direction: 1 | -1) => (a: Candidate, b: Candidate) =>
  direction * (a.chance - b.chance) || (a.id < b.id ? -1 : 1);

/**
 * The next batch of least expected cost; null where nothing is left to try. The safest first or the riskiest
 * first, whichever is cheaper.
 */
export function nextBatch({ free, suspects }: BringBack, costs: BringBackCosts): NextBatch | null {
  let best: { readonly value: Value; readonly list: readonly Candidate[] } | null = null;
  for (const one of [1, -1] as const)
    for (const other of [1, -1] as const) {
      const list = [...[...suspects].sort(byChance(one)), ...[...free].sort(byChance(other))];
      const value = bestBatch(list, suspects.length, costs);
      if (value.take > 0 && (!best || value.cost < best.value.cost - 1e-9)) best = { value, list };
    }
  if (!best) return null;
  const { take, goesWell, restarts, loops } = best.value;
  return { batch: best.list.slice(0, take).map(({ id }) => id), goesWell, restarts, loops };
}

/** What is known after a start with a batch on. A batch is never larger than what is free or suspected. */
export function afterBatch(
  state: BringBack,
  batch: readonly string[],
  outcome: 'started' | 'looped',
): BringBack {
  const of = (list: readonly Candidate[]) => list.filter(({ id }) => batch.includes(id));
  const rest = (list: readonly Candidate[]) => list.filter(({ id }) => !batch.includes(id));
  const tried = [...of(state.suspects), ...of(state.free)];
  if (outcome === 'started')
    return settled({
      ...state,
      good: [...state.good, ...tried.map(({ id }) => id)],
      suspects: rest(state.suspects),
      free: rest(state.free),
    });
  return settled({ ...state, suspects: tried, free: [...rest(state.suspects), ...rest(state.free)] });
}

/** One suspect alone is the culprit. */
function settled(state: BringBack): BringBack {
  const [only, ...others] = state.suspects;
  return only && others.length === 0 ? { ...state, suspects: [], bad: [...state.bad, only.id] } : state;
}

export const isDone = ({ free, suspects }: BringBack) => free.length === 0 && suspects.length === 0;

/** The suspects with the chance that each breaks it, given that one of them does; the likeliest first. */
export function suspectsOf({ suspects }: BringBack): readonly Candidate[] {
  const none = suspects.reduce((product, { chance }) => product * (1 - chance), 1);
  return suspects
    .map(({ id, chance }) => ({ id, chance: Math.min(1, chance / (1 - none)) }))
    .sort(byChance(-1));
}
