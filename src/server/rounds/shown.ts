import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import type { WholePart } from '@/core/bench/whole-build';
import type { ObserveExpectation } from '@/core/observe/expectation';
import { observe } from '@/core/observe/hold';
import { refusedBefore } from '@/core/observe/refused-before';
import type { ShownAt } from '@/core/rounds/command';
import type { RoundStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { Observing } from '@/core/steps/expectation-of';
import { expectationOf } from '@/core/steps/expectation-of';
import { readSecret } from '../repositories/handset-repository';
import { imageFileName } from '../services/image-view';
import { buildParts } from './build-parts';
import { packageParts } from './package-parts';
import type { RoundContext } from './round-context';
import { before, imageOf, sentImage } from './round-context';
import { slotsOfPart, slotsWritten } from './step-writes';

/* What has to be seen of a step at the handset of a round, and what a person showed of it. */

/** What a step writes one after another: the images of a whole build, or one to both slots. */
function partsShown(
  context: RoundContext,
  step: RoundStep,
): readonly Pick<WholePart, 'partition' | 'size' | 'both'>[] {
  const image = imageOf(context, step);
  return image && slotsWritten(context, step).length > 1 && DEEDS[step.key].shown?.mode === 'bootloader'
    ? [{ partition: image.partition, size: image.sizeBytes, both: true }]
    : buildParts(context, step);
}

/** What is sent after a step, from the vault; what is taken out of a package on the way is not among it. */
export function carried(context: RoundContext): readonly KeptImage[] {
  const from = context.steps.findIndex(({ key }) => key === 'carry-over');
  const images = context.steps
    .slice(from + 1)
    .flatMap((step) => [
      imageOf(context, step),
      ...(DEEDS[step.key].writes?.what === 'whole build'
        ? buildParts(context, step).map(({ kept }) => kept)
        : []),
    ]);
  const known = new Map(images.flatMap((image) => (image ? [[image.sha256, image] as const] : [])));
  return [...known.values()];
}

/** Files whose hashes have to be shown at a step; null where it is about none. */
function filesShown(context: RoundContext, { key }: RoundStep): Observing['files'] {
  if (key === 'carry-over')
    return carried(context).map((image) => ({ file: imageFileName(image), sha256: image.sha256 }));
  return key === 'package-inside' || key === 'see-again'
    ? packageParts(context).map(({ partition, image }) => ({ file: partition, sha256: image.sha256 }))
    : null;
}

/** @returns null at a step of which nothing can be shown */
export async function expectationAt(
  context: RoundContext,
  step: RoundStep,
): Promise<ObserveExpectation | null> {
  const { facts, round, handset, rootPartition, recoveryHome } = context;
  const { slot, build } = step.planned;
  return expectationOf(DEEDS[step.key], {
    serial: await readSecret(handset.id, 'serial'),
    product: facts.device,
    slotCount: facts.slotCount,
    rootPartition,
    recoveryHome,
    slot,
    build,
    target: round.target ?? build,
    freshWipe: before(context, step).some(({ planned }) => planned.erases),
    parts: partsShown(context, step).map(({ partition, size, both }) => ({
      partition,
      slots: slotsOfPart(context, step, { both }),
      size,
    })),
    ways: context.subject.ways,
    files: filesShown(context, step),
    image(wanted) {
      const image = sentImage(context, step, wanted);
      return image && { sha256: image.sha256, size: image.sizeBytes, file: imageFileName(image) };
    },
  });
}

/** @returns null where nothing was pasted, or nothing can be shown of this step */
export async function shownAt(context: RoundContext, step: RoundStep, text: string): Promise<ShownAt | null> {
  if (text.trim() === '') return null;
  const expectation = await expectationAt(context, step);
  if (!expectation) return null;
  // where there has to be no root, the refusal is what was asked for
  const refused = expectation.step === 'prove-stock' || refusedBefore(text);
  return { ...observe(expectation, text), refusedBefore: refused };
}
