import 'server-only';
import { randomUUID } from 'node:crypto';
import { EternoError } from '@/core/errors';
import { dropLease, takeLease } from '../repositories/lease-repository';

/*
 * One at a time on a handset, in whatever process. The machine's own clock: a fixed one would never let a
 * lease end.
 */

const LEASE_MS = 30_000;
const RENEW_MS = 10_000;

/**
 * Holds a handset while something works on it, and renews that until it is given back; a process that is
 * killed loses it by itself.
 * @param onLost told once, when somebody else holds it all the same: whatever works on the handset has to end
 * @returns what gives it back
 * @throws {EternoError} `conflict` where somebody else works on it
 */
export async function holdHandset(
  handsetId: string,
  onLost: () => void = () => undefined,
  renewMs: number = RENEW_MS,
): Promise<() => Promise<void>> {
  const holder = randomUUID();
  const take = () => takeLease({ handsetId, holder, until: Date.now() + LEASE_MS }, Date.now());
  if (!(await take()))
    throw new EternoError('conflict', 'Something else works on this handset now: let it end first.');
  let renewed: Promise<void> = Promise.resolve();
  const timer = setInterval(() => {
    // a store that is busy for a moment loses nothing: the lease lasts for several tries
    renewed = take()
      .catch(() => true)
      .then((mine) => {
        if (mine) return;
        clearInterval(timer);
        onLost();
      });
  }, renewMs);
  timer.unref();
  return async () => {
    clearInterval(timer);
    // one that is under way would take it again after it was given back, for nobody
    await renewed;
    await dropLease(handsetId, holder);
  };
}
