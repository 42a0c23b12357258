import 'server-only';
import { EternoError } from '@/core/errors';
import type { HandsetLink } from '@/core/link/handset-link';
import { needHandset } from './bench-reading';
import { applyFacts } from './fact-service';
import { linkOf } from './link-service';

/** All variables of the bootloader, as a person would paste them. */
export const variablesText = async (link: HandsetLink) =>
  (await link.variables()).map((line) => `(bootloader) ${line}`).join('\n');

/**
 * Everything the handset says in the mode it is in, in one go.
 * @returns which of the two spoke
 * @throws {EternoError} `link-lost`, `refused`
 */
export async function readFactsFromLink(handsetId: string): Promise<'system' | 'bootloader'> {
  const link = linkOf(await needHandset(handsetId));
  const mode = (await link.listed())?.mode;
  if (mode !== 'system' && mode !== 'bootloader')
    throw new EternoError('link-lost', 'Neither its system nor its bootloader answers.');
  await applyFacts(
    handsetId,
    mode === 'system' ? await link.properties() : await variablesText(link),
    'link',
  );
  return mode;
}
