import 'server-only';
import type { Evidence } from '@/core/rounds/evidence';
import type { NewStep } from '@/core/rounds/round';
import type { OfBuild, SettledBy } from '@/core/steps/deed';
import { DEEDS } from '@/core/steps/deeds';
import * as say from '@/core/words/step-evidence';
import type { KeptImage } from '@/core/bench/bench';
import { patchedWithRecoveryOf, rebuiltRecoveryOf } from '@/core/bench/recovery-image';
import { fullPackageOf } from '@/core/bench/judgements';
import { wholeMissing, wholePackage } from '@/core/bench/whole-build';
import type { RoundContext } from './round-context';
import { ownRecovery, patchedOf, stockOf } from './round-context';

const seen = (what: string): readonly Evidence[] => [{ what, strength: 'strong' }];

/** The package is there, or its one image is and no more of it is wanted. */
function packageProved(
  { bench }: RoundContext,
  build: string,
  stock: KeptImage | null,
  whole: boolean,
): readonly Evidence[] | null {
  if (stock && !whole) return seen(say.stockInVault(stock.partition));
  const packaged = whole ? wholePackage(bench, build) : fullPackageOf(bench, build);
  return packaged ? seen(say.exactlyThisBuild(packaged.fileName)) : null;
}

/** Whether more is taken out of a package than root's stock image. */
function takesMore(context: RoundContext, of: OfBuild, build: string, steps: readonly NewStep[]): boolean {
  if (of === 'the target') return steps.some(({ key }) => DEEDS[key].wholeBuild === true);
  const also = { 'take-stock-recovery': context.recoveryHome, 'take-bootloader': 'bootloader' } as const;
  return steps.some(
    ({ key }) =>
      (key === 'take-stock-recovery' || key === 'take-bootloader') &&
      stockOf(context, also[key], build) === null,
  );
}

/** The one image that a step makes or takes, where the vault has it: what is said of it. */
function imageProved(context: RoundContext, what: OneImage, build: string): string | null {
  const { bench, rootPartition, recoveryHome } = context;
  const image = {
    stock: () => stockOf(context, rootPartition, build),
    'stock recovery': () => stockOf(context, recoveryHome, build),
    bootloader: () => stockOf(context, 'bootloader', build),
    'rebuilt recovery': () => rebuiltRecoveryOf(bench, recoveryHome, build, ownRecovery(context)),
    patched: () => patchedOf(context, build),
    'patched with recovery': () => patchedWithRecoveryOf(bench, rootPartition, build, ownRecovery(context)),
  }[what]();
  if (image === null) return null;
  const { partition, sha256, kit } = image;
  if (what === 'patched' || what === 'patched with recovery') return say.patchedBy(kit ?? '', sha256);
  return what === 'rebuilt recovery'
    ? say.recoveryPutIn(partition, sha256)
    : say.imageInVault(partition, sha256);
}
type OneImage = Exclude<SettledBy['what'], 'package' | 'every image'>;

/** What the vault and the shelf of packages already prove of a step in a round of `steps`, or null. */
export function provedOf(
  context: RoundContext,
  { key, planned }: NewStep,
  steps: readonly NewStep[],
  target: string | null,
): readonly Evidence[] | null {
  const { settledBy } = DEEDS[key];
  if (settledBy === undefined) return null;
  const { bench, facts, rootPartition } = context;
  const build = settledBy.of === 'its build' ? planned.build : (target ?? planned.build);
  if (settledBy.what === 'package') {
    const whole = takesMore(context, settledBy.of, build, steps);
    const partition = DEEDS[key].ofOlder ? 'bootloader' : rootPartition;
    return packageProved(context, build, stockOf(context, partition, build), whole);
  }
  if (settledBy.what === 'every image')
    return wholeMissing(bench, build, facts.partitions)?.length === 0 ? seen(say.EVERY_IMAGE) : null;
  const said = imageProved(context, settledBy.what, build);
  return said === null ? null : seen(said);
}
