import 'server-only';
import type { InstallPart } from '@/core/bench/install-package';
import { installOf, installParts } from '@/core/bench/install-package';
import type { Bench } from '@/core/bench/bench';
import type { Round } from '@/core/rounds/round';

interface OfRound {
  readonly bench: Bench;
  readonly round: Pick<Round, 'plan'>;
}

/** The package that a round installs from the running system; null where it is not kept any more. */
export const packageOfRound = ({ bench, round }: OfRound) =>
  round.plan.limits?.install === undefined ? null : installOf(bench, round.plan.limits.install);

/** What it puts where; empty in a round that installs none. */
export function packageParts(context: OfRound): readonly InstallPart[] {
  const kept = packageOfRound(context);
  return kept ? installParts(context.bench, kept) : [];
}
