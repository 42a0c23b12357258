import 'server-only';
import { EternoError } from '@/core/errors';
import type { UnlockToken } from '@/core/unlocking/token';
import { readCode, readToken } from '@/core/unlocking/token';
import { isKnown } from '@/core/ways/speak';
import { readSecret, writeSecret } from '../repositories/handset-repository';
import { variablesText } from '../services/link-facts';
import { linkOf } from '../services/link-service';
import { atStep } from './over-link';
import type { RoundContext } from './round-context';
import { roundContext } from './round-context';

/* The token that is sent to a maker, and the code that comes back. Both are private: they leave the server once. */

/**
 * The token in one piece, kept with the private values, for whoever copies it now.
 * @param text what the bootloader printed; null where it is read over the link
 * @throws {EternoError} `refused` where nothing is linked, `link-lost` where another mode answers, and of `readToken`
 */
export async function tokenAtStep(
  roundId: string,
  version: number,
  text: string | null,
): Promise<UnlockToken> {
  const { handset } = await atStep(roundId, version);
  const read = readToken(text ?? (await printedToken(handset)));
  await writeSecret(handset.id, 'token', read.token);
  return read;
}

async function printedToken(handset: RoundContext['handset']): Promise<string> {
  const link = linkOf(handset);
  if ((await link.listed())?.mode !== 'bootloader')
    throw new EternoError('link-lost', 'The token is read in the bootloader, and the handset is not there.');
  return variablesText(link);
}

/** A code as it came, held against what is known. @throws {EternoError} `bad-field` */
export async function codeAtStep(roundId: string, text: string): Promise<string> {
  const { handset, subject } = await roundContext(roundId);
  const form = subject.ways('code-form');
  return readCode(text, {
    token: await readSecret(handset.id, 'token'),
    serial: await readSecret(handset.id, 'serial'),
    form: isKnown(form) ? form.value : null,
  });
}
