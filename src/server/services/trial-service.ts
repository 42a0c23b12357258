import 'server-only';
import type { TrialRow } from '../db/models';
import { insertTrial } from '../repositories/record-repository';
import { now } from './clock';
import { kitItem } from './judgements';
import type { RoundContext } from './round-context';
import { patchedOf } from './round-context';

/** What a round saw of the kit it used, on the build it was for. */
export async function noteKitTrial(context: RoundContext, outcome: TrialRow['outcome'], note: string): Promise<void> {
  const { round, handset, facts, bench } = context;
  const fingerprint = round.target ?? facts.fingerprint;
  const patched = fingerprint === null ? null : patchedOf(context, fingerprint);
  const kit = bench.kits.find((row) => kitItem(row) === patched?.kit);
  if (!kit || fingerprint === null) return;
  await insertTrial({
    shelf: 'kit',
    item: kitItem(kit),
    fingerprint,
    handsetId: handset.id,
    roundId: round.id,
    outcome,
    note,
    at: now(),
  });
}
