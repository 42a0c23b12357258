import 'server-only';
import type { GuardedHandset } from '@/core/vault/way-back';
import { readSubjects } from './bench-reading';
import type { Bench } from './judgements';
import { rootOf, wayBackInput } from './judgements';

/** Every handset with what its slots hold, for telling which images are somebody's way back. */
export async function guardedHandsets(bench: Bench): Promise<GuardedHandset[]> {
  return (await readSubjects()).map((subject) => {
    const { fingerprint } = subject.facts.typed;
    const onSlots = subject.cells.map((cell) => bench.images.find((image) => image.sha256 === cell.sha256)?.fingerprint ?? null);
    const slotFingerprints = [...new Set([fingerprint, ...onSlots])].filter((one): one is string => one !== null);
    return { ...wayBackInput(subject, bench, rootOf(subject, bench)), name: subject.handset.name, slotFingerprints };
  });
}
