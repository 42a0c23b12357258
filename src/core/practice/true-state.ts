import type { Mode, Slot } from '../handset/state';
import type { PlannedAbout } from '../rounds/round';
import type { SurpriseId } from '../words/surprises';

/*
 * What a simulated handset truly was when a step had ended, held against what the plan says of it: so what was only
 * said is told apart into what was so and what was not (docs/method.md, "Practice").
 */

export interface TrueState {
  readonly mode: Mode;
  readonly slot: Slot;
  /** Null while no system runs. */
  readonly rooted: boolean | null;
  /** How often everything on it was erased so far. */
  readonly wipes: number;
  /** How long it was waited for so far, in milliseconds of real length, however quick they passed. */
  readonly waitedMs: number;
  /** Surprises that had come over it, in their order. */
  readonly came: readonly SurpriseId[];
}

export const UNTRUE_WORDS = {
  mode: 'It was in another mode than the step ends in.',
  slot: 'Another slot was selected than the plan goes on with.',
  root: 'Root was not as the step leaves it.',
  erased: 'Nothing was erased.',
} as const;
export type Untrue = keyof typeof UNTRUE_WORDS;

/**
 * What of a step's end was not so.
 * @param next the step behind it; null behind the last
 * @param before what the handset was when the step before it had ended; null where nobody noted that
 */
export function untrueOf(
  { mode, rootAfter, erases }: PlannedAbout,
  next: PlannedAbout | null,
  truly: TrueState,
  before: TrueState | null,
): readonly Untrue[] {
  const isSo: Readonly<Record<Untrue, boolean>> = {
    mode: mode === 'computer' || mode === truly.mode,
    slot: next === null || next.slot === truly.slot,
    root: rootAfter === null || truly.rooted === null || rootAfter === truly.rooted,
    erased: !erases || before === null || truly.wipes > before.wipes,
  };
  return (Object.keys(isSo) as Untrue[]).filter((what) => !isSo[what]);
}
