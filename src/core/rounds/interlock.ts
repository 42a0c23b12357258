import type { StepKey } from '../steps/step-kind';

/* Where one restart too early loses root or the recovery: the round holds the person back (docs/method.md, "Restart interlock"). */

export interface InterlockStep {
  readonly key: StepKey;
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'interrupted';
  readonly holds: boolean;
  readonly starts: boolean;
  readonly offers: number;
}

export interface Interlock {
  readonly why: string;
  readonly opens: string;
  /** Restart offers that were refused, of so many that come. */
  readonly refused: number;
  readonly offers: number;
  /** What a restart now would cost. */
  readonly cost: string;
}

const WHY: Readonly<Partial<Record<StepKey, readonly [string, string]>>> = {
  'stock-back': ['The stock image lies on disk; root only still runs.', 'The next start would be without root.'],
  'take-update': ['The new build waits on the other slot, unpatched.', 'It would start without root, and root again takes the computer.'],
  'take-full-update': ['The new build waits on the other slot, unpatched.', 'It would start without root, and root again takes the computer.'],
  'patch-other-slot': [
    'The other slot is patched and waits for the one restart that belongs there.',
    'It would start rooted, and unwatched: take it here.',
  ],
  'start-once': ['Root runs from memory; the disk holds the stock image.', 'The next start would be without root.'],
  'write-recovery': ['The system may put the stock recovery back at its start.', 'The recovery would be gone; write it again.'],
};

/** What holds a restart back now, or null. `refusals` counts the offers that were refused since the hold began. */
export function interlockOf(steps: readonly InterlockStep[], current: number | null, refusals: number): Interlock | null {
  if (current === null) return null;
  const begun = steps.slice(0, current + 1);
  let first = -1;
  begun.forEach((step, i) => {
    const running = i === current && step.state === 'running';
    if (step.starts && step.state === 'done') first = -1;
    else if (step.holds && (step.state === 'done' || running) && first < 0) first = i;
  });
  if (first < 0) return null;
  const last = begun.filter((step, i) => i >= first && step.holds && step.state !== 'waiting').at(-1)!;
  const opens = steps.findIndex(
    (step, i) => i >= current && (step.starts || step.key === 'recovery' || step.key === 'make-lasting' || step.key === 'zip-inside'),
  );
  const opening = steps[opens];
  if (!opening || (opens === current && opening.starts)) return null;
  const [why, cost] = WHY[last.key] ?? ['Something is half done.', 'It would have to be done again.'];
  const words =
    opening.key === 'recovery'
      ? 'going into the recovery'
      : opening.key === 'make-lasting' || opening.key === 'zip-inside'
        ? 'making it lasting'
        : 'the step “Start the system”';
  return {
    why,
    cost,
    opens: words,
    refused: refusals,
    offers: steps.slice(first, opens).reduce((sum, step) => sum + step.offers, 0),
  };
}
