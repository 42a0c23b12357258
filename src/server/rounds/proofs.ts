import 'server-only';
import type { Evidence } from '@/core/rounds/evidence';
import type { NewStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import * as say from '@/core/words/step-evidence';
import { wholeMissing, wholePackage } from '@/core/bench/judgements';
import type { RoundContext } from './round-context';
import { patchedOf, stockOf } from './round-context';

/** What the vault and the shelf of packages already prove of a step in a round of `steps`, or null. */
export function provedOf(
  context: RoundContext,
  { key, planned }: NewStep,
  steps: readonly NewStep[],
  target: string | null,
): readonly Evidence[] | null {
  const { settledBy } = DEEDS[key];
  if (settledBy === undefined) return null;
  const { bench, rootPartition } = context;
  const build = settledBy.of === 'its build' ? planned.build : (target ?? planned.build);
  const seen = (what: string): Evidence[] => [{ what, strength: 'strong' }];
  const stock = stockOf(context, rootPartition, build);
  switch (settledBy.what) {
    case 'package': {
      // where all of the build is wanted, its one image is not enough
      const whole =
        settledBy.of === 'the target' && steps.some((step) => DEEDS[step.key].wholeBuild === true);
      if (stock && !whole) return seen(say.stockInVault(stock.partition));
      const packaged = whole
        ? wholePackage(bench, build)
        : bench.packages.find(({ report }) => !report.incremental && report.build.fingerprint === build);
      return packaged ? seen(say.exactlyThisBuild(packaged.fileName)) : null;
    }
    case 'stock':
      return stock && seen(say.imageInVault(stock.partition, stock.sha256));
    case 'every image':
      return wholeMissing(bench, build)?.length === 0 ? seen(say.EVERY_IMAGE) : null;
    case 'patched': {
      const patched = patchedOf(context, build);
      return patched && seen(say.patchedBy(patched.kit ?? '', patched.sha256));
    }
  }
}
