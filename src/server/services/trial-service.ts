import 'server-only';
import type { TrialRow } from '../db/models';
import { listKits } from '../repositories/image-repository';
import { insertTrial } from '../repositories/record-repository';
import { now } from './clock';
import { kitItem } from './judgements';
import type { RoundContext } from './round-view';

/** What a round saw of the kit it used, on the build it was for. */
export async function noteKitTrial({ round, handset, facts, images }: RoundContext, outcome: TrialRow['outcome'], note: string): Promise<void> {
  const kit = (await listKits()).find((row) => kitItem(row) === images.patched?.kit);
  if (!kit || facts.fingerprint === null) return;
  await insertTrial({
    shelf: 'kit',
    item: kitItem(kit),
    fingerprint: facts.fingerprint,
    handsetId: handset.id,
    roundId: round.id,
    outcome,
    note,
    at: now(),
  });
}
