import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import type { WholePart } from '@/core/bench/whole-build';
import { wholeParts } from '@/core/bench/whole-build';
import type { NewStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { RoundContext } from './round-context';
import { buildOfStep, patchedOf } from './round-context';

/* The images that a step of a whole build writes. */

/**
 * In the package's own order, the patched one in the place of its stock image where that is wanted: it is
 * missing until it is made. Empty where the step writes no whole build, or no package of it was opened.
 */
export function buildParts(context: RoundContext, step: NewStep): WholePart[] {
  const { writes } = DEEDS[step.key];
  if (writes?.what !== 'whole build') return [];
  const build = buildOfStep(context, step, 'the target');
  const patched = writes.parts?.patched === true ? patchedOf(context, build) : null;
  return (wholeParts(context.bench, build) ?? []).map((part) =>
    writes.parts?.patched === true && part.partition === context.rootPartition
      ? {
          ...part,
          kept: patched,
          passes: false,
          size: patched?.sizeBytes ?? null,
          sha256: patched?.sha256 ?? null,
        }
      : part,
  );
}

/** Those of them that lie in the vault, and the stock image that a patched one was made of. */
export const keptOfBuild = (context: RoundContext, step: NewStep): KeptImage[] =>
  buildParts(context, step).flatMap(({ kept }) => kept ?? []);
