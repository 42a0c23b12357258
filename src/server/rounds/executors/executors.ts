import 'server-only';
import type { RoundStep } from '@/core/rounds/round';
import { trustsNobody } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-key';
import { BUILDS } from './run-builds';
import { MODES } from './run-modes';
import { MODULES } from './run-modules';
import { PACKAGES } from './run-package';
import { THROUGH_RECOVERY } from './run-recovery';
import { UPDATES } from './run-updates';
import { WRITES } from './run-writes';
import type { Executor } from './running';

const BY_HAND = [
  // its bytes come from the browser: `sideload.ts`
  'sideload',
  'find-out',
  'back-up',
  'guard-off',
  'protect',
  'check',
  'carry-over',
  'look-around',
  'close',
  'open-installed-package',
  'open-target-package',
  'take-stock',
  'take-stock-recovery',
  'open-older-package',
  'take-bootloader',
  'take-older-bootloader',
  'open-other-package',
  'take-other-stock',
  'take-target-stock',
  'patch',
  'patch-target',
  'rebuild-recovery',
  'patch-with-recovery',
  'bring-patched',
  'bring-target-patched',
  'take-whole',
  'ask-code',
  'erase-cache',
  'wipe-keep-storage',
  'factory-reset',
  'format-data',
] as const satisfies readonly StepKey[];

/**
 * How each step is done: by Eterno over the link, or by the person, who says what they saw. What is chosen on
 * a handset's own menu is theirs: nothing of it comes over the link. A step that is in neither does not
 * compile.
 */
const EXECUTORS: Readonly<Record<StepKey, Executor | 'by hand'>> = {
  ...MODES,
  ...WRITES,
  ...BUILDS,
  ...UPDATES,
  ...THROUGH_RECOVERY,
  ...MODULES,
  ...PACKAGES,
  ...(Object.fromEntries(BY_HAND.map((key) => [key, 'by hand'])) as Readonly<
    Record<(typeof BY_HAND)[number], 'by hand'>
  >),
};

/**
 * What does a step over the link in its round; null where it is done by hand, or nothing of the handset comes
 * over the link then.
 */
export function executorOf(steps: readonly RoundStep[], step: RoundStep): Executor | null {
  const executor = EXECUTORS[step.key];
  if (executor === 'by hand') return null;
  const { starts } = DEEDS[step.key];
  return step.planned.mode === 'system' &&
    starts !== true &&
    step.key !== 'debugging' &&
    trustsNobody(steps, step)
    ? null
    : executor;
}

/** Whether a step is the person's, on whatever handset. */
export const isByHand = ({ key }: Pick<RoundStep, 'key'>) => EXECUTORS[key] === 'by hand';

/** What happens in its bootloader alone, and asks nothing on its screen. */
const BY_CABLE: readonly StepKey[] = [
  'bootloader',
  'write-root',
  'write-stock',
  'write-other-stock',
  'write-recovery',
  'write-stock-recovery',
  'write-build',
  'write-build-both',
  'write-build-patched',
  'older-bootloader',
  'bootloader-down',
  'bootloader-back',
  'start-once',
  'recovery-once',
  'other-slot',
  'same-slot',
];

/** Whether a page of the browser that holds the handset's cable can do a step. */
export const isByCable = ({ key }: Pick<RoundStep, 'key'>): boolean => BY_CABLE.includes(key);

/** It ends in a mode that such a cable does not reach: what came of it the person says. */
export const endsOutOfReach = ({ key }: Pick<RoundStep, 'key'>): boolean =>
  key === 'start-once' || key === 'recovery-once';
