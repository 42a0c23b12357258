import 'server-only';
import { DEEDS } from '@/core/steps/deeds';
import type { NewStep } from '@/core/rounds/round';
import { buildParts } from './build-parts';
import type { RoundContext } from './round-context';

/** A partition, and its slot where the handset has two. */
export interface Written {
  readonly partition: string;
  readonly slot: string | null;
}

function partitionsOf(context: RoundContext, step: NewStep): readonly string[] {
  const { rootPartition, recoveryHome } = context;
  const root = rootPartition === null ? [] : [rootPartition];
  switch (DEEDS[step.key].writes?.what) {
    case 'whole build':
      return [...new Set([...buildParts(context, step).map(({ partition }) => partition), ...root])];
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

/** The slots that a step writes to: null alone on a handset with one. */
export function slotsWritten(
  { facts, slotCount }: RoundContext,
  { key, planned: { slot } }: NewStep,
): readonly ('a' | 'b' | null)[] {
  if (slotCount !== 2) return [null];
  const where = DEEDS[key].writes?.slot;
  if (where === 'both') return ['a', 'b'];
  return where === 'the other' ? [(facts.currentSlot ?? slot) === 'a' ? 'b' : 'a'] : [slot];
}

/**
 * Everything that a step may have changed on the handset when it ends in its middle, and nobody saw how far
 * it came.
 */
export const mayHaveWritten = (context: RoundContext, step: NewStep): Written[] =>
  partitionsOf(context, step).flatMap((partition) =>
    slotsWritten(context, step).map((slot) => ({ partition, slot })),
  );
