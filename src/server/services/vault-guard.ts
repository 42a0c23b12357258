import 'server-only';
import type { GuardedHandset } from '@/core/vault/way-back';
import { readAllSubjects } from './bench-reading';
import { listRounds } from '../repositories/round-repository';
import type { Bench } from '@/core/bench/bench';
import { keptOfBuild } from '../rounds/build-parts';
import { imageOf, roundContext, stockFor } from '../rounds/round-context';
import { recoveriesShelved, rootOf, wayBackInput } from '@/core/bench/judgements';

/** Every handset with what its slots hold, for telling which images are somebody's way back. */
export async function guardedHandsets(bench: Bench): Promise<GuardedHandset[]> {
  const needed = await neededByRounds();
  // one that is put away keeps its way back too
  return (await readAllSubjects()).map((subject) => {
    const { fingerprint } = subject.facts.typed;
    const onSlots = subject.cells.map(
      (cell) => bench.images.find((image) => image.sha256 === cell.sha256)?.fingerprint ?? null,
    );
    const slotFingerprints = [...new Set([fingerprint, ...onSlots])].filter(
      (one): one is string => one !== null,
    );
    return {
      ...wayBackInput(subject, bench, rootOf(subject, bench)),
      name: subject.handset.name,
      slotFingerprints,
      neededByRound: needed.get(subject.handset.id) ?? [],
      ownRecovery: recoveriesShelved(subject, bench)[0]?.sha256 ?? null,
    };
  });
}

/** Images that steps of open rounds still write, and the stock images they would go back to; by handset. */
async function neededByRounds(): Promise<ReadonlyMap<string, readonly string[]>> {
  const needed = new Map<string, readonly string[]>();
  for (const { id, handsetId } of (await listRounds()).filter(({ state }) => state === 'open')) {
    const context = await roundContext(id);
    const steps = context.steps.filter(({ state }) => state !== 'done');
    const images = steps.flatMap((step) => [
      imageOf(context, step),
      stockFor(context, step),
      ...keptOfBuild(context, step),
    ]);
    needed.set(handsetId, [
      ...new Set(
        images.flatMap((image) =>
          image === null ? [] : [image.sha256, ...(image.stockSha256 === null ? [] : [image.stockSha256])],
        ),
      ),
    ]);
  }
  return needed;
}
