import 'server-only';
import type { StepGateInput } from '@/core/gates/step-gates';
import { judgeWrite } from '@/core/judge/judge-write';
import type { NewStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { ImageCheckId } from '@/core/words/write';
import { packageParts } from './package-parts';
import type { RoundContext } from './round-context';
import { questionOf } from './write-questions';

/** What is asked of each image of a package: all else is asked of the handset once. */
const OF_THE_IMAGE: readonly ImageCheckId[] = ['handset', 'build', 'partition', 'size', 'proof', 'home'];

/** The images of the package that a step installs, each with what is wrong or not known of it; empty at every other. */
export async function packageImages(
  context: RoundContext,
  step: NewStep,
): Promise<StepGateInput['packageImages']> {
  if (DEEDS[step.key].writes?.what !== 'package') return [];
  const slot = context.slotCount === 2 ? step.planned.slot : null;
  const judged = [];
  for (const { partition, image } of packageParts(context)) {
    const { checks } = judgeWrite(
      await questionOf(
        { ...context, step },
        { image, sizeBytes: image.sizeBytes },
        { partition, slot, mode: 'system' },
      ),
    );
    const asked = checks.filter(({ id }) => OF_THE_IMAGE.includes(id as ImageCheckId));
    const worst =
      asked.find(({ holds }) => holds === false) ??
      asked.find(({ id, holds }) => holds === null && (id === 'proof' || id === 'handset')) ??
      asked.find(({ id }) => id === 'proof')!;
    judged.push({ partition, holds: worst.holds, says: worst.saw });
  }
  return judged;
}
