import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { needHandset, readBench, readSubject } from './bench-reading';
import { nextBuild } from '@/core/bench/judgements';
import { startRound } from '../rounds/opening';

/**
 * An update round for each of several handsets of one model. What one of them opens, takes out and patches is
 * in the vault for all: their rounds find it there. Each keeps its own checks, its own plan and its own
 * writes.
 * @throws {EternoError} `refused` where they are not of one model, or naming those that have no way; the
 *   others have begun then
 */
export async function startBatch(handsetIds: readonly string[]): Promise<void> {
  const bench = await readBench();
  const subjects = [];
  for (const id of new Set(handsetIds)) subjects.push(await readSubject(await needHandset(id)));
  const products = new Set(
    subjects.map(({ facts }) =>
      facts.typed.fingerprint ? splitFingerprint(facts.typed.fingerprint)?.product : undefined,
    ),
  );
  if (products.size !== 1 || products.has(undefined))
    throw new EternoError(
      'refused',
      'These handsets are not of one model: siblings share steps, never files.',
    );
  const without: string[] = [];
  for (const subject of subjects) {
    const target = nextBuild(subject, bench)?.fingerprint ?? null;
    if (target === null) {
      without.push(`${subject.handset.name}: it is on the newest build known`);
      continue;
    }
    const rooted = subject.root === 'proven' || subject.root === 'unproven';
    const wish = {
      handsetId: subject.handset.id,
      goal: rooted ? ('monthly update' as const) : ('root again' as const),
      target: rooted ? target : null,
    };
    await startRound({
      ...wish,
      lane: null,
      limits: { computer: true, wipeAllowed: false, keepFuse: false },
    }).catch((thrown: unknown) => {
      const error = toEternoError(thrown);
      if (error.code !== 'refused') throw thrown;
      without.push(`${subject.handset.name}: ${error.message}`);
    });
  }
  if (without.length > 0) throw new EternoError('refused', `No round was begun for ${without.join('; ')}`);
}
