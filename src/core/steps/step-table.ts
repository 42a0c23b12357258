import { BOOTLOADERS } from './steps-bootloader';
import { HERE } from './steps-here';
import { PACKAGES } from './steps-package';
import { SECOND_HOST } from './steps-host';
import { INSIDE } from './steps-inside';
import { MODES } from './steps-modes';
import { UNLOCKING } from './steps-unlock';
import { PROOF } from './steps-proof';
import { THROUGH_RECOVERY } from './steps-recovery';
import { UPDATES } from './steps-updates';
import { WRITES } from './steps-writes';
import type { StepKey } from './step-key';
import type { StepKind } from './step-kind';

/** Every kind of step by its key. */
export const STEP_KINDS: Readonly<Record<StepKey, StepKind>> = {
  ...HERE,
  ...MODES,
  ...UNLOCKING,
  ...WRITES,
  ...UPDATES,
  ...INSIDE,
  ...SECOND_HOST,
  ...THROUGH_RECOVERY,
  ...BOOTLOADERS,
  ...PACKAGES,
  ...PROOF,
};

export const isStepKey = (key: string): key is StepKey => Object.hasOwn(STEP_KINDS, key);
