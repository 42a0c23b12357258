import { differenceInWords } from '../text/align-strings';
import { wordsBy } from './words-by';

/* Why a package fits a handset as it does: the code of it, and how a person reads it. */

export type FitReason =
  | { readonly code: 'other-device'; readonly theirs: string; readonly ours: string | null }
  | { readonly code: 'shut-out'; readonly label: string | null; readonly region: string | null }
  | { readonly code: 'too-little-known'; readonly missing: readonly string[] }
  | { readonly code: 'other-variant'; readonly theirs: string; readonly ours: string }
  | { readonly code: 'looks-alike'; readonly ours: string; readonly theirs: string }
  | { readonly code: 'same' | 'order-unknown' | 'newer' | 'older' };

export const fitWords = wordsBy<FitReason>({
  'other-device': ({ theirs, ours }) => `It is for ${theirs}, and this handset is ${ours}.`,
  'shut-out': ({ label, region }) => `Its label says ${label}, and this handset is ${region}.`,
  'too-little-known': ({ missing }) => `Not enough is known: ${missing.join(', ')}.`,
  'other-variant': ({ theirs, ours }) =>
    `It is for another variant of this handset: ${theirs} instead of ${ours}. Even if everything else agrees, it does not fit.`,
  'looks-alike': ({ ours, theirs }) =>
    `Its build number looks like the installed one but differs: ${differenceInWords(ours, theirs)}.`,
  same: () => 'Its whole fingerprint is the same as the installed build’s.',
  'order-unknown': () =>
    'It is for this handset and variant, but nothing tells which of the two builds is newer.',
  newer: () =>
    'It is newer than the installed build: its image belongs to a system that is not on the handset yet.',
  older: () =>
    'It is older than the installed build: its image belongs to a system that is no longer on the handset.',
});

/** Whether an incremental update would be refused, by the partitions that are not as they were made. */
export const pristineWords = (refusedFor: readonly string[]): string =>
  refusedFor.length === 0
    ? 'Every partition it starts from is as it was made.'
    : `The update will be refused: put the stock ${refusedFor.join(' and ')} back first, or take the full package.`;

/** What is to be said of one file on the table beside its role. */
export type TableNote =
  | { readonly code: 'doubled' | 'stale'; readonly other: string }
  | { readonly code: 'wrong-shelf' }
  /** Build numbers. */
  | { readonly code: 'renamed'; readonly name: string; readonly content: string }
  | { readonly code: 'missing'; readonly partition: string; readonly file: string };

export const TABLE_NOTE_TITLES: Readonly<Record<TableNote['code'], string>> = {
  doubled: 'doubled',
  stale: 'stale',
  'wrong-shelf': 'not yours',
  renamed: 'renamed',
  missing: 'missing',
};

export const tableNoteWords = wordsBy<TableNote>({
  doubled: ({ other }) => `the same as ${other}, by size and content`,
  stale: ({ other }) => `${other} is a later build for the same handset`,
  'wrong-shelf': () => 'for none of the handsets on the bench',
  renamed: ({ name, content }) => `its name says ${name}, its content is of ${content}`,
  missing: ({ partition, file }) => `${partition}: the list names ${file}, which is not there`,
});
