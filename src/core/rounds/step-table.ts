import { HERE } from './steps-here';
import { MODES } from './steps-modes';
import { PROOF } from './steps-proof';
import { THROUGH_RECOVERY } from './steps-recovery';
import { UPDATES } from './steps-updates';
import { WRITES } from './steps-writes';
import type { StepKey, StepKind } from './step-kind';

/** Every kind of step by its key. */
export const STEP_KINDS: Readonly<Record<StepKey, StepKind>> = { ...HERE, ...MODES, ...WRITES, ...UPDATES, ...THROUGH_RECOVERY, ...PROOF };

/** Steps that are done on the computer, never by word. */
export const DONE_HERE: readonly StepKey[] = [
  'open-installed-package',
  'open-target-package',
  'take-stock',
  'take-target-stock',
  'take-whole',
  'patch',
  'patch-target',
  'back-up',
  'protect',
  'check',
  'ask-code',
  'look-around',
  'close',
];

export const isStepKey = (key: string): key is StepKey => Object.hasOwn(STEP_KINDS, key);
