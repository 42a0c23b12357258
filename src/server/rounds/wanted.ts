import 'server-only';
import type { WantedImages } from '@/contracts/firmware-view';
import { fullPackageOf } from '@/core/bench/judgements';
import { stillToKeep, wholePackage, wholeParts } from '@/core/bench/whole-build';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { NewStep } from '@/core/rounds/round';
import type { SettledBy } from '@/core/steps/deed';
import { DEEDS } from '@/core/steps/deeds';
import { listRounds } from '../repositories/round-repository';
import type { RoundContext } from './round-context';
import { buildOfStep, roundContext, stockOf } from './round-context';
import { partsMissing } from './round-gates';

/* What open rounds still take out of packages. */

const OUT_OF_PACKAGES: readonly SettledBy['what'][] = [
  'stock',
  'stock recovery',
  'bootloader',
  'every image',
];

/** The build that a step takes images of, and which; every one that is missing where it takes all. */
function wantedBy(
  context: RoundContext,
  { key, planned }: NewStep,
): { readonly build: string; readonly partitions: readonly string[] | null } | null {
  const { settledBy } = DEEDS[key];
  if (settledBy === undefined || !OUT_OF_PACKAGES.includes(settledBy.what)) return null;
  const { bench, rootPartition, recoveryHome, round } = context;
  const build = buildOfStep({ round }, { planned }, settledBy.of);
  if (settledBy.what === 'every image') {
    const parts = wholeParts(bench, build);
    return { build, partitions: parts && stillToKeep(parts) };
  }
  const partition =
    settledBy.what === 'bootloader'
      ? 'bootloader'
      : settledBy.what === 'stock recovery'
        ? recoveryHome
        : rootPartition;
  return partition === null || stockOf(context, partition, build) ? null : { build, partitions: [partition] };
}

/**
 * What a step overwrites besides, of the build that lies there: kept first where a package of that build is at
 * hand.
 */
function savedBefore(
  context: RoundContext,
  step: NewStep,
): { readonly build: string; readonly partitions: readonly string[] } | null {
  if (!DEEDS[step.key].gates.includes('parts-kept')) return null;
  const { build } = step.planned;
  const brought = wholePackage(context.bench, build)?.report.images.map(({ partition }) => partition) ?? [];
  const partitions = partsMissing(context, step).filter((partition) => brought.includes(partition));
  return partitions.length === 0 ? null : { build, partitions };
}

function wantedIn(context: RoundContext, build: string | null): WantedImages | null {
  const open = context.steps.filter(({ state }) => state !== 'done');
  const found = [
    ...open.flatMap((step) => wantedBy(context, step) ?? []),
    ...open.flatMap((step) => savedBefore(context, step) ?? []),
  ].filter((one) => build === null || one.build === build);
  const [first] = found;
  if (!first) return null;
  const own = found.filter((one) => one.build === first.build);
  const file = wholePackage(context.bench, first.build) ?? fullPackageOf(context.bench, first.build);
  return {
    roundId: context.round.id,
    handset: context.handset.name,
    build: splitFingerprint(first.build)?.id ?? first.build,
    partitions: own.some(({ partitions }) => partitions === null)
      ? null
      : [...new Set(own.flatMap(({ partitions }) => partitions ?? []))],
    file: file ? { name: file.fileName, sizeBytes: file.sizeBytes } : null,
  };
}

/**
 * The images that an open round takes from a package of a build, of the newest round that takes any.
 * @param build fingerprint; null for whatever build a round takes images of first
 */
export async function wantedImages(build: string | null): Promise<WantedImages | null> {
  for (const { id, state } of await listRounds()) {
    if (state !== 'open') continue;
    const wanted = wantedIn(await roundContext(id), build);
    if (wanted && wanted.partitions?.length !== 0) return wanted;
  }
  return null;
}
