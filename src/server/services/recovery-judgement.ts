import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import { EternoError } from '@/core/errors';
import type { RecoveryClaim } from '@/core/packages/recovery-claim';
import {
  asFragment,
  isRecovery,
  needRecoveryImage,
  recoveryClaim,
  recoveryIsFor,
} from '@/core/packages/recovery-claim';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { WriteImageFacts } from '@/core/gates/write-gates';
import { nodePorts } from '@/platform/node/node-ports';
import { openProved } from '../vault/vault';

import type { RoundContext } from '../rounds/round-context';

/* Images that are offered as recoveries, judged by the bytes that lie in the vault. */

/** What the bytes of a hash say never changes. */
const read = new Map<string, RecoveryClaim>();
const MOST_READ = 64;

/** @throws {EternoError} `not-found`, `bad-hash` where the file was damaged, and of the readers */
export async function claimOf(sha256: string): Promise<RecoveryClaim> {
  const known = read.get(sha256);
  if (known) return known;
  const source = await openProved('images', sha256);
  try {
    const claim = await recoveryClaim(source, nodePorts);
    if (read.size >= MOST_READ) read.delete(read.keys().next().value!);
    read.set(sha256, claim);
    return claim;
  } finally {
    await source.close();
  }
}

/** What the gates ask of a recovery of the person's own; a file that can't be read is none. */
export async function judgedRecovery(
  { bench, facts }: RoundContext,
  { sha256, recoverySha256 }: Pick<KeptImage, 'sha256' | 'recoverySha256'>,
): Promise<WriteImageFacts['recovery']> {
  // what was put into a stock image here is judged as it was before
  const own = recoverySha256 ?? sha256;
  const onlyFragment = recoverySha256 !== null;
  const shelved = bench.recoveries.find((row) => row.sha256 === own);
  try {
    const claim = await claimOf(own);
    const word = shelved ? { devices: shelved.devices, reason: shelved.note } : null;
    return {
      is: isRecovery(onlyFragment ? asFragment(claim) : claim),
      forHandset: recoveryIsFor(claim, facts, word),
      onlyFragment,
    };
  } catch (thrown) {
    if (!(thrown instanceof EternoError)) throw thrown;
    const says = { code: 'unreadable', error: thrown.message } as const;
    return { is: { holds: false, says }, forHandset: { holds: null, says }, onlyFragment };
  }
}

/**
 * Before an image goes on the shelf of recoveries, for these code names.
 * @returns the newest platform level whose storage it opens; null where it does not say so
 * @throws {EternoError} `does-not-fit` for what is no recovery or is made for another handset, `bad-field`
 *   where it names no handset and the
 *   person gives no reason
 */
export async function needShelvable(
  { sha256, role }: Pick<KeptImage, 'sha256' | 'role'>,
  devices: readonly string[],
  reason: string,
): Promise<number | null> {
  const claim = await claimOf(sha256);
  needRecoveryImage(role, claim);
  const made = claim.fingerprint === null ? null : splitFingerprint(claim.fingerprint);
  const other = made && devices.find((device) => device !== made.device);
  if (made && other !== undefined)
    throw new EternoError(
      'does-not-fit',
      `Its own data says that it is made for ${made.device}, so it can’t go on the shelf for ${other}.`,
    );
  if (!made && reason.trim() === '')
    throw new EternoError(
      'bad-field',
      'This image does not say which handset it is made for. Say in the note how you know.',
    );
  return claim.opensUpTo;
}
