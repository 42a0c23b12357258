import type { SurpriseId } from '../words/surprises';
import { SURPRISE_IDS } from '../words/surprises';

/*
 * Which surprises a scene has: the occasion of a usual slip, or a month's, drawn by how often each came in
 * somebody's own record (docs/method.md, "Practice").
 */

/** The occasions of the usual slips: a restart too early, an image on the wrong slot, a cable, a prompt nobody answers. */
export const OCCASIONS = ['restarts-itself', 'slot-changed', 'cable-out', 'prompt-gone'] as const;
export type Occasion = (typeof OCCASIONS)[number];

/**
 * Those that come up in each piece of work: where its way holds restarts back, writes to one of two slots, writes
 * over a cable, asks for root.
 */
export const USUAL_SLIPS: Readonly<Record<number, readonly Occasion[]>> = {
  1: ['cable-out', 'prompt-gone'],
  2: ['cable-out', 'prompt-gone'],
  3: ['cable-out', 'prompt-gone'],
  4: ['cable-out', 'prompt-gone'],
  5: ['restarts-itself', 'prompt-gone'],
  6: ['cable-out', 'prompt-gone'],
  7: ['restarts-itself', 'prompt-gone'],
  8: ['slot-changed', 'cable-out', 'prompt-gone'],
  9: ['restarts-itself', 'prompt-gone'],
  10: ['cable-out', 'prompt-gone'],
  11: ['cable-out', 'prompt-gone'],
  12: ['prompt-gone'],
  13: ['slot-changed', 'cable-out', 'prompt-gone'],
  14: ['cable-out', 'prompt-gone'],
  15: ['cable-out'],
  16: ['cable-out'],
  17: ['prompt-gone'],
  18: ['cable-out', 'prompt-gone'],
  19: ['prompt-gone'],
  20: ['slot-changed', 'cable-out', 'prompt-gone'],
};

/** How often each surprise is drawn, against the others; whole numbers, 1 where none is named. */
export type Odds = Readonly<Partial<Record<SurpriseId, number>>>;
export const MOST_ODDS = 99;
/** A month has so many. */
export const IN_A_MONTH = 3;

/** A number in [0, 1) from a state of 32 bits, and the next state: the same row from the same seed everywhere. */
function nextOf(state: number): readonly [number, number] {
  const next = (state + 0x6d2b79f5) | 0;
  let mixed = Math.imul(next ^ (next >>> 15), 1 | next);
  mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
  return [((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32, next];
}

/** @returns as many as a month has, none twice; the same for the same seed and odds */
export function drawSurprises(seed: number, odds: Odds): readonly SurpriseId[] {
  const drawn: SurpriseId[] = [];
  let state = seed | 0;
  for (let i = 0; i < IN_A_MONTH; i += 1) {
    const left = SURPRISE_IDS.filter((id) => !drawn.includes(id));
    const weights = left.map((id) => odds[id] ?? 1);
    const [share, next] = nextOf(state);
    state = next;
    let rest = share * weights.reduce((sum, weight) => sum + weight, 0);
    const at = weights.findIndex((weight) => (rest -= weight) < 0);
    drawn.push(left[at < 0 ? left.length - 1 : at]!);
  }
  return drawn;
}
