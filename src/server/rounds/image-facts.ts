import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import type { WriteImageFacts } from '@/core/gates/write-gates';
import { judgedProof } from '@/core/judge/weigh-write';
import type { NewStep } from '@/core/rounds/round';
import { CUSTOM_RECOVERY, DEEDS } from '@/core/steps/deeds';
import { judgedRecovery } from '../services/recovery-judgement';
import type { RoundContext } from './round-context';

/** A custom recovery belongs to no build: it is judged by its own bytes. */
const isOwnRecovery = ({ key }: NewStep, { role }: KeptImage) =>
  CUSTOM_RECOVERY.includes(key) || (DEEDS[key].writes?.what === 'package' && role === 'recovery');

/** What the gates ask of the image of a step. */
export async function imageFacts(
  context: RoundContext,
  step: NewStep,
  image: KeptImage,
): Promise<WriteImageFacts> {
  const { partition, role, fingerprint, patchLevel, sizeBytes, proof } = image;
  const recovery = isOwnRecovery(step, image) ? await judgedRecovery(context, image) : null;
  const held = proof && { held: proof.filter((line) => line.ok).length, of: proof.length };
  const stock = image.judged && context.bench.images.find((one) => one.sha256 === image.judged!.stockSha256);
  const judged =
    image.judged && judgedProof({ ...image.judged, same: false }, stock?.fingerprint ?? null, image.trust);
  return { partition, role, fingerprint, recovery, patchLevel, sizeBytes, proof: held, judged };
}
