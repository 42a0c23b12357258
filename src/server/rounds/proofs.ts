import 'server-only';
import type { Evidence } from '@/core/rounds/evidence';
import type { NewStep } from '@/core/rounds/round';
import type { OfBuild } from '@/core/steps/deed';
import { DEEDS } from '@/core/steps/deeds';
import * as say from '@/core/words/step-evidence';
import type { KeptImage } from '@/core/bench/bench';
import { fullPackageOf } from '@/core/bench/judgements';
import { wholeMissing, wholePackage } from '@/core/bench/whole-build';
import type { RoundContext } from './round-context';
import { patchedOf, stockOf } from './round-context';

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
  return (
    steps.some(({ key }) => key === 'take-stock-recovery') &&
    stockOf(context, context.recoveryHome, build) === null
  );
}

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
  const stock = stockOf(context, rootPartition, build);
  switch (settledBy.what) {
    case 'package':
      return packageProved(context, build, stock, takesMore(context, settledBy.of, build, steps));
    case 'stock recovery': {
      const own = stockOf(context, context.recoveryHome, build);
      return own && seen(say.imageInVault(own.partition, own.sha256));
    }
    case 'stock':
      return stock && seen(say.imageInVault(stock.partition, stock.sha256));
    case 'every image':
      return wholeMissing(bench, build, facts.partitions)?.length === 0 ? seen(say.EVERY_IMAGE) : null;
    case 'patched': {
      const patched = patchedOf(context, build);
      return patched && seen(say.patchedBy(patched.kit ?? '', patched.sha256));
    }
  }
}
