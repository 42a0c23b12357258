import 'server-only';
import { WHOLE_WRITES } from '@/core/planning/limits';
import type { StepKey } from '@/core/rounds/step-kind';
import { wholePackage } from './judgements';
import type { RoundContext, RoundStepRow } from './round-context';

/** A partition, and its slot where the handset has two. */
export interface Written {
  readonly partition: string;
  readonly slot: string | null;
}

const WHOLE: readonly StepKey[] = [...WHOLE_WRITES, 'sideload', 'take-update', 'take-full-update'];
/** They change the slot that does not run. */
const OTHER_SLOT: readonly StepKey[] = ['sideload', 'take-update', 'take-full-update', 'patch-other-slot'];

function partitionsOf(
  { bench, round, rootPartition, recoveryHome }: RoundContext,
  { stepKey, planned }: Pick<RoundStepRow, 'stepKey' | 'planned'>,
): string[] {
  if (WHOLE.includes(stepKey)) {
    const whole = wholePackage(bench, round.target ?? planned.build)?.report.images.map(({ partition }) => partition) ?? [];
    return [...new Set([...whole, ...(rootPartition === null ? [] : [rootPartition])])];
  }
  switch (stepKey) {
    case 'write-root':
    case 'write-stock':
    case 'make-lasting':
    case 'stock-back':
    case 'patch-other-slot':
    case 'root-zip':
    case 'zip-inside':
      return rootPartition === null ? [] : [rootPartition];
    case 'write-recovery':
    case 'write-stock-recovery':
    case 'recovery-inside':
      return recoveryHome === null ? [] : [recoveryHome];
    case 'older-bootloader':
      return ['bootloader'];
    default:
      return [];
  }
}

/** Everything that a step may have changed on the handset when it ends in its middle, and nobody saw how far it came. */
export function mayHaveWritten(context: RoundContext, step: Pick<RoundStepRow, 'stepKey' | 'planned'>): Written[] {
  const { slot } = step.planned;
  const other = (context.facts.currentSlot ?? slot) === 'a' ? 'b' : 'a';
  const slots =
    context.slotCount !== 2 ? [null] : step.stepKey === 'write-build-both' ? ['a', 'b'] : OTHER_SLOT.includes(step.stepKey) ? [other] : [slot];
  return partitionsOf(context, step).flatMap((partition) => slots.map((one) => ({ partition, slot: one })));
}
