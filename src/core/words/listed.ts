import { differenceInWords } from '../text/align-strings';
import { wordsBy } from './words-by';

/* Why a line of a maker's list of builds is the one, or is not: the code of it, and how a person reads it. */

export type ListedSays =
  | { readonly code: 'same'; readonly found: string }
  | { readonly code: 'looks-alike'; readonly ours: string; readonly theirs: string }
  | { readonly code: 'newer' | 'older'; readonly theirs: string }
  | { readonly code: 'shut-out'; readonly label: string; readonly region: string }
  | { readonly code: 'region-unknown'; readonly label: string }
  | { readonly code: 'other-variant'; readonly theirs: string; readonly ours: string }
  | { readonly code: 'other-serials' | 'serial-unknown' }
  | { readonly code: 'names-no-build' };

export const listedWords = wordsBy<ListedSays>({
  same: ({ found }) => `It names ${found}, the build that is installed, letter by letter.`,
  'looks-alike': ({ ours, theirs }) =>
    `It looks like the installed build and is not: ${differenceInWords(ours, theirs) ?? `${theirs} instead of ${ours}`}.`,
  newer: ({ theirs }) => `${theirs} is newer than the installed build.`,
  older: ({ theirs }) => `${theirs} is older than the installed build.`,
  'shut-out': ({ label, region }) => `Its label says ${label}, and this handset is ${region}.`,
  'region-unknown': ({ label }) =>
    `Its label says ${label}, and which region or carrier this handset is of was never read: look in its settings.`,
  'other-variant': ({ theirs, ours }) => `It is for ${theirs}, and this handset is ${ours}.`,
  'other-serials': () => 'It names the serials that it is for, and this handset’s is none of them.',
  'serial-unknown': () =>
    'It names the serials that it is for, and this handset’s was never read: read its facts first.',
  'names-no-build': () => 'It names no build of the kind that this handset has.',
});
