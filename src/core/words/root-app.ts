import { wordsBy } from './words-by';

/* What is found of the root app on a handset, and what to do about it. */

export const CHANNEL_WORDS = {
  stable: 'stable',
  preview: 'preview',
  unofficial: 'a branch that is not its maker’s',
} as const;
export type RootAppChannel = keyof typeof CHANNEL_WORDS;

export type RootAppFinding =
  | { readonly code: 'hidden' | 'unpinned' | 'unread' }
  | { readonly code: 'too-old'; readonly has: number; readonly least: number; readonly kit: string }
  | { readonly code: 'newer'; readonly has: number; readonly core: number; readonly kit: string }
  | { readonly code: 'other-channel'; readonly app: RootAppChannel; readonly kit: RootAppChannel }
  | { readonly code: 'fits'; readonly has: number; readonly kit: string };

export const rootAppWords = wordsBy<RootAppFinding>({
  hidden: () => 'It is hidden under another name: show it before the round, else nobody sees its prompt.',
  unpinned: () => 'It may offer an update of itself. Say no to it: app and kit belong together.',
  unread: () => 'Which version it is was never read.',
  'too-old': ({ has, least, kit }) =>
    `It is of version ${has}, and ${kit} asks for ${least} at least. Install the one that belongs to the kit from its own file.`,
  newer: ({ has, core, kit }) =>
    `It is of version ${has}, newer than what runs (${kit}, ${core}): patch the next image with the kit that belongs to it, or put the older app back.`,
  'other-channel': ({ app, kit }) =>
    `It is ${CHANNEL_WORDS[app]}, the kit that runs is ${CHANNEL_WORDS[kit]}: they were not made for each other.`,
  fits: ({ has, kit }) => `Version ${has} belongs to ${kit}.`,
});
