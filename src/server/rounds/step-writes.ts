import 'server-only';
import { DEEDS } from '@/core/steps/deeds';
import { wholePackage } from '@/core/bench/whole-build';
import type { NewStep } from '@/core/rounds/round';
import type { RoundContext } from './round-context';

/** A partition, and its slot where the handset has two. */
export interface Written {
  readonly partition: string;
  readonly slot: string | null;
}

function partitionsOf(
  { bench, round, rootPartition, recoveryHome }: RoundContext,
  { key, planned }: NewStep,
): readonly string[] {
  const root = rootPartition === null ? [] : [rootPartition];
  switch (DEEDS[key].writes?.what) {
    case 'whole build': {
      const whole =
        wholePackage(bench, round.target ?? planned.build)?.report.images.map(({ partition }) => partition) ??
        [];
      return [...new Set([...whole, ...root])];
    }
    case 'root':
      return root;
    case 'recovery':
      return recoveryHome === null ? [] : [recoveryHome];
    case 'bootloader':
      return ['bootloader'];
    case undefined:
      return [];
  }
}

/**
 * Everything that a step may have changed on the handset when it ends in its middle, and nobody saw how far
 * it came.
 */
export function mayHaveWritten(context: RoundContext, step: NewStep): Written[] {
  const { slot } = step.planned;
  const other = (context.facts.currentSlot ?? slot) === 'a' ? 'b' : 'a';
  const where = DEEDS[step.key].writes?.slot;
  const slots =
    context.slotCount !== 2
      ? [null]
      : where === 'both'
        ? ['a', 'b']
        : where === 'the other'
          ? [other]
          : [slot];
  return partitionsOf(context, step).flatMap((partition) => slots.map((one) => ({ partition, slot: one })));
}
