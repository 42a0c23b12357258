import 'server-only';
import { EternoError } from '@/core/errors';
import { needHandset } from './bench-reading';
import { applyFacts } from './fact-service';
import { profileOf, standInView, withBootloader, withSystem } from './stand-in-service';

/** All variables of the bootloader as it prints them. */
const allVariables = (profile: string) =>
  withBootloader(profile, async (client) => (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n'));
export const propertyDump = (profile: string) => withSystem(profile, async (client) => String((await client.ask({ do: 'props' }))['text']));

/** Everything the handset says in the mode it is in, in one go. @returns which of the two spoke @throws {EternoError} `link-lost`, `refused` */
export async function readFactsFromLink(handsetId: string): Promise<'system' | 'bootloader'> {
  const profile = profileOf(await needHandset(handsetId));
  const mode = (await standInView(profile))?.state.mode;
  if (mode !== 'system' && mode !== 'bootloader') throw new EternoError('link-lost', 'Neither its system nor its bootloader answers.');
  await applyFacts(handsetId, mode === 'system' ? await propertyDump(profile) : await allVariables(profile), 'link');
  return mode;
}
