import { onSlot } from '../handset/builds';
import type { PlanContext } from './context';
import type { LanePlan } from './plan-round';

/* What is easily overlooked in a plan (docs/method.md, "Linter"). */

export interface LintNote {
  /** Number of the step it is about, from 1. */
  readonly step: number;
  readonly sentence: string;
}

/** Findings in the order of the steps. */
export function lintPlan({ start, profile }: PlanContext, plan: LanePlan): LintNote[] {
  const notes: LintNote[] = [];
  let before = start;
  plan.steps.forEach(({ action, after, writes }, i) => {
    const step = i + 1;
    const say = (sentence: string) => notes.push({ step, sentence });
    const later = plan.steps.slice(i + 1);
    if (after.data.wipes > before.data.wipes) {
      say('It erases everything: keep what is needed later somewhere else.');
      if (later.some((one) => one.who === 'link'))
        say(
          'Debugging and the trust of this computer are gone after it; turn them on again before the link is needed.',
        );
    }
    const recovery = (state: typeof after) =>
      state.images[onSlot(profile.recoveryHome, state.active)]?.recovery ?? null;
    if (recovery(before) !== null && recovery(after) === null)
      say('The custom recovery is overwritten here.');
    if (before.snapshot !== 'merging' && after.snapshot === 'merging')
      say('After this the other slot is no way back any more; only the stock image is.');
    if (before.mode !== 'bootloader' && after.mode === 'bootloader' && later.some((one) => one.writes))
      say('Read its serial here before anything is written: two handsets look alike in this mode.');
    if (after.update !== null && before.update === null)
      say(
        'From here on every restart starts the new build: refuse each that is offered until the step that takes it.',
      );
    if (writes && action === 'write-build-patched')
      say('It writes bootloader and radio too: have half a battery or more, and the computer on mains.');
    before = after;
  });
  return notes;
}
