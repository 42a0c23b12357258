import 'server-only';
import { DEEDS } from '@/core/steps/deeds';
import type { NewStep } from '@/core/rounds/round';
import type { WholePart } from '@/core/bench/whole-build';
import { buildParts } from './build-parts';
import { packageParts } from './package-parts';
import type { RoundContext } from './round-context';
import { rootOnBoth } from './round-context';

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
    case 'package':
      return packageParts(context).map(({ partition }) => partition);
    case undefined:
      return [];
  }
}

const TWO = ['a', 'b'] as const;

/** The slots that a step writes to: null alone on a handset with one. */
export function slotsWritten(context: RoundContext, step: NewStep): readonly ('a' | 'b' | null)[] {
  if (context.slotCount !== 2) return [null];
  const { key, planned } = step;
  const where = DEEDS[key].writes?.slot;
  if (where === 'both') return TWO;
  if (where === 'the other') return [(context.facts.currentSlot ?? planned.slot) === 'a' ? 'b' : 'a'];
  return rootOnBoth(context, step) ? [planned.slot, planned.slot === 'a' ? 'b' : 'a'] : [planned.slot];
}

/** Those that one image of a whole build goes to: both where the package's own list says so. */
export const slotsOfPart = (
  context: RoundContext,
  step: NewStep,
  { both }: Pick<WholePart, 'both'>,
): readonly ('a' | 'b' | null)[] =>
  both && context.slotCount === 2 && DEEDS[step.key].shown?.mode === 'bootloader'
    ? TWO
    : slotsWritten(context, step);

/**
 * Everything that a step may have changed on the handset when it ends in its middle, and nobody saw how far
 * it came.
 */
export function mayHaveWritten(context: RoundContext, step: NewStep): Written[] {
  const parts = new Map(buildParts(context, step).map((part) => [part.partition, part]));
  return partitionsOf(context, step).flatMap((partition) =>
    slotsOfPart(context, step, parts.get(partition) ?? { both: false }).map((slot) => ({ partition, slot })),
  );
}
