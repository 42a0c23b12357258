import { onSlot } from '../handset/builds';
import type { LintCode } from '../words/plan';
import type { PlanContext } from './context';
import type { LanePlan } from './plan-round';

/* What is easily overlooked in a plan (docs/method.md, "Linter"). */

export interface LintNote {
  /** Number of the step it is about, from 1. */
  readonly step: number;
  readonly code: LintCode;
}

/** Findings in the order of the steps. */
export function lintPlan({ start, profile }: PlanContext, plan: LanePlan): LintNote[] {
  const notes: LintNote[] = [];
  let before = start;
  plan.steps.forEach(({ action, after, writes }, i) => {
    const step = i + 1;
    const say = (code: LintCode) => notes.push({ step, code });
    const later = plan.steps.slice(i + 1);
    if (after.data.wipes > before.data.wipes) {
      say('erases');
      if (later.some((one) => one.who === 'link')) say('erases-trust');
    }
    const recovery = (state: typeof after) =>
      state.images[onSlot(profile.recoveryHome, state.active)]?.recovery ?? null;
    if (recovery(before) !== null && recovery(after) === null) say('recovery-overwritten');
    if (before.snapshot !== 'merging' && after.snapshot === 'merging') say('other-slot-gone');
    if (before.mode !== 'bootloader' && after.mode === 'bootloader' && later.some((one) => one.writes))
      say('read-serial');
    if (after.update !== null && before.update === null) say('restart-takes-update');
    if (writes && action === 'write-build-patched') say('writes-bootloader');
    before = after;
  });
  return notes;
}
