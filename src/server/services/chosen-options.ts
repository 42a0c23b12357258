import 'server-only';
import { kitItem } from '@/core/bench/judgements';
import type { KeptImage } from '@/core/bench/bench';
import type { Kit } from '@/core/kits/kit';
import type { OptionValues } from '@/core/patch/steps-that-run';
import { optionsThatFit } from '@/core/patch/steps-that-run';
import { originsOf } from '../repositories/image-repository';

/* What the person chose of a kit's options the last time: the next month's image is patched the same way. */

/** What was chosen for an image that was patched here; nothing where that is not known. */
async function chosenFor(sha256: string): Promise<OptionValues> {
  const patches = (await originsOf(sha256)).filter(({ kind }) => kind === 'patch');
  return patches.sort((a, b) => b.at - a.at)[0]?.detail.options ?? {};
}

/** The choice of the newest image that this kit patched, in whatever version, as far as this version takes it. */
export async function chosenLast(
  kit: Pick<Kit, 'id' | 'options'>,
  images: readonly Pick<KeptImage, 'sha256' | 'kit' | 'addedAt'>[],
): Promise<OptionValues> {
  const [newest] = images
    .filter((image) => image.kit?.startsWith(kitItem({ kitId: kit.id, version: '' })) === true)
    .sort((a, b) => b.addedAt - a.addedAt);
  return newest ? optionsThatFit(kit, await chosenFor(newest.sha256)) : {};
}
