import { wordsBy } from './words-by';

/* The three floors below which a build is not taken: codes, and how a person reads them. */

export type FloorId = 'fuse' | 'stored index' | 'maker';

export const FLOOR_TITLES: Readonly<Record<FloorId, string>> = {
  fuse: 'Bootloader fuse',
  'stored index': 'Stored rollback index',
  maker: 'Maker’s floor for writes',
};

export type FloorSays =
  | { readonly code: 'no-bootloader-written' | 'fuse-unread' }
  | { readonly code: 'below-fuse'; readonly fuse: number; readonly build: number }
  | { readonly code: 'above'; readonly stored: number; readonly build: number }
  | {
      readonly code: 'below-index';
      readonly stored: number;
      readonly build: number;
      readonly locked: boolean;
    }
  | { readonly code: 'unlocked' | 'index-unread' | 'maker-unknown' }
  | { readonly code: 'maker-lets-in' | 'maker-refuses'; readonly level: string };

export const floorWords = wordsBy<FloorSays>({
  'no-bootloader-written': () => 'No bootloader is written.',
  'fuse-unread': () =>
    'A handset with a bootloader below its fuse never starts again, locked or not. The fuse has to be read before a bootloader is written.',
  'below-fuse': ({ fuse, build }) =>
    `The handset is at ${fuse}, the build at ${build}: it would never start again.`,
  above: ({ stored, build }) => `The build is at ${build}, the handset at ${stored}.`,
  'below-index': ({ stored, build, locked }) =>
    locked
      ? `The build is at ${build}, the handset at ${stored}: a locked handset refuses it.`
      : `The build is at ${build}, the handset at ${stored}. That works while the handset is unlocked; locked with this build it would not start.`,
  unlocked: () => 'It counts only on a locked handset, and this one is unlocked.',
  'index-unread': () => 'What the handset has stored was never read, and it counts on a locked handset.',
  'maker-unknown': () =>
    'Whether the maker’s tools refuse older builds is not known. A refused write changes nothing.',
  'maker-lets-in': ({ level }) => `The maker’s tools write ${level} and newer.`,
  'maker-refuses': ({ level }) => `The maker’s tools write ${level} and newer, and refuse this build.`,
});

/** Whether the data opens afterwards. Levels are patch levels, `yyyy-mm` or `yyyy-mm-dd`. */
export type DataSays =
  | { readonly code: 'not-encrypted' | 'never-opened' | 'one-month' }
  | { readonly code: 'level-unknown'; readonly whose: readonly ('image' | 'system')[] }
  | { readonly code: 'older-than-data'; readonly which: 'image' | 'system' | 'both'; readonly data: string }
  | { readonly code: 'months-differ'; readonly image: string; readonly system: string };

const OLDER = { image: 'The image is', system: 'The system is', both: 'Image and system are' } as const;

export const dataWords = wordsBy<DataSays>({
  'not-encrypted': () => 'Data is not encrypted, so no key is bound to a patch level.',
  'never-opened': () => 'Which builds have opened its data is not known.',
  'one-month': () => 'Image, system and data are of one month or newer.',
  'level-unknown': ({ whose }) =>
    `Not known: ${whose.map((one) => `the ${one}’s`).join(' and ')} patch level.`,
  'older-than-data': ({ which, data }) =>
    `${OLDER[which]} older than the newest build that has opened data (${data}): its keys may refuse. If it asks for a wipe, say no; the newer build can still read it.`,
  'months-differ': ({ image, system }) =>
    `Image (${image}) and system (${system}) are of different months; some handsets then cannot open their data.`,
});
