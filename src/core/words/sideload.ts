import type { FitReason } from './fit';
import { fitWords } from './fit';
import { wordsBy } from './words-by';

/*
 * Why a package is not sent by sideload: the code of it, and how a person reads it. Builds are build numbers.
 */

export type SideloadRefusal =
  | { readonly code: 'names-no-build' }
  | { readonly code: 'another-build'; readonly brings: string; readonly wanted: string }
  | { readonly code: 'does-not-fit'; readonly reason: FitReason }
  /** `source` is null where it names none. */
  | { readonly code: 'another-source'; readonly source: string | null; readonly installed: string }
  | { readonly code: 'way-down'; readonly from: string; readonly to: string; readonly refusedOnce: boolean };

export const sideloadWords = wordsBy<SideloadRefusal>({
  'names-no-build': () => 'This package does not say which build it brings.',
  'another-build': ({ brings, wanted }) =>
    `This package brings ${brings}, and this round is about ${wanted}.`,
  'does-not-fit': ({ reason }) => fitWords(reason),
  'another-source': ({ source, installed }) =>
    `This package only changes ${source ?? 'a build that it does not name'}, and the handset has ${installed}.`,
  'way-down': ({ from, to, refusedOnce }) =>
    refusedOnce
      ? `Going down from ${from} to ${to} was refused before.`
      : `Nobody has noted that going down from ${from} to ${to} works.`,
});
