import 'server-only';
import type { GuardedHandset } from '@/core/vault/way-back';
import { listHandsets } from '../repositories/handset-repository';
import { readSubject } from './bench-reading';
import type { Bench } from './judgements';
import { rootOf, wayBackInput } from './judgements';

/** Every handset with what its slots hold, for telling which images are somebody's way back. */
export async function guardedHandsets(bench: Bench): Promise<GuardedHandset[]> {
  const out: GuardedHandset[] = [];
  for (const handset of await listHandsets()) {
    const subject = await readSubject(handset);
    const { fingerprint } = subject.facts.typed;
    const onSlots = subject.cells.map((cell) => bench.images.find((image) => image.sha256 === cell.sha256)?.fingerprint ?? null);
    const slotFingerprints = [...new Set([fingerprint, ...onSlots])].filter((one): one is string => one !== null);
    out.push({ ...wayBackInput(subject, bench, rootOf(subject, bench)), name: handset.name, slotFingerprints });
  }
  return out;
}
