import 'server-only';
import { EternoError } from '@/core/errors';
import { needHandset } from './bench-service';
import { applyFacts } from './fact-service';
import { standInView, withBootloader, withSystem } from './stand-in-service';

/** All variables of the bootloader as it prints them. */
export const allVariables = () => withBootloader(async (client) => (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n'));
export const propertyDump = () => withSystem(async (client) => String((await client.ask({ do: 'props' }))['text']));

/** Everything the handset says in the mode it is in, in one go. @returns which of the two spoke @throws {EternoError} `link-lost`, `refused` */
export async function readFactsFromLink(handsetId: string): Promise<'system' | 'bootloader'> {
  const handset = await needHandset(handsetId);
  if (handset.link !== 'stand-in') throw new EternoError('refused', 'This handset is not linked: paste what it prints.');
  const mode = (await standInView())?.state.mode;
  if (mode !== 'system' && mode !== 'bootloader') throw new EternoError('link-lost', 'Neither its system nor its bootloader answers.');
  await applyFacts(handsetId, mode === 'system' ? await propertyDump() : await allVariables(), 'link');
  return mode;
}
