import { wordsBy } from './words-by';

/* What a plan takes for granted because nobody has read it, and how each is found out. */

export type Assumption =
  | { readonly code: 'root-place'; readonly partition: string }
  | { readonly code: 'target-level'; readonly sdk: number }
  | {
      readonly code:
        | 'platform'
        | 'switch-on'
        | 'unlocked'
        | 'two-slots'
        | 'recovery-home'
        | 'starts-nothing'
        | 'no-download'
        | 'writes-nothing'
        | 'target-fuse'
        | 'data-at-fault'
        | 'offered'
        | 'no-update'
        | 'unrooted'
        | 'other-slot'
        | 'waiting-build';
    };

const PROPERTIES = 'Paste the properties that its system prints.';
const VARIABLES = 'Paste the variables that its bootloader prints.';

/** What is taken for granted, and the step that finds it out, each in one sentence. */
export const assumptionWords = wordsBy<Assumption, { readonly words: string; readonly foundBy: string }>({
  'root-place': ({ partition }) => ({
    words: `Root sits in ${partition}, by rule of thumb only.`,
    foundBy: 'Open the package of its build in Firmware: its images tell.',
  }),
  'target-level': ({ sdk }) => ({
    words: `Its new release has platform level ${sdk}, by rule of thumb.`,
    foundBy: 'Open the package of that build in Firmware.',
  }),
  platform: () => ({ words: 'Its platform level is not known.', foundBy: PROPERTIES }),
  'switch-on': () => ({
    words: 'Its unlock switch is on.',
    foundBy: 'Look at its developer options, and say in its room how the switch stands.',
  }),
  unlocked: () => ({ words: 'It is unlocked.', foundBy: VARIABLES }),
  'two-slots': () => ({ words: 'It has two slots.', foundBy: VARIABLES }),
  'recovery-home': () => ({
    words: 'Where its recovery lives was never read, so no recovery is written.',
    foundBy: `${VARIABLES} Or open the package of its build in Firmware.`,
  }),
  'starts-nothing': () => ({
    words: 'Its bootloader starts nothing from memory.',
    foundBy: 'Say in its room whether its bootloader starts an image from memory.',
  }),
  'no-download': () => ({
    words: 'It has no download mode.',
    foundBy: 'Say in its room whether it has a download mode.',
  }),
  'writes-nothing': () => ({
    words: 'Its bootloader is taken to write nothing: it was never read.',
    foundBy: VARIABLES,
  }),
  'target-fuse': () => ({
    words: 'The bootloader of the wanted build is not below the fuse; its image tells before it is written.',
    foundBy: 'Take the bootloader out of that build’s package in Firmware.',
  }),
  'data-at-fault': () => ({
    words: 'Its image is the stock one, so what keeps it from starting lies in its data.',
    foundBy: 'The repair itself finds it out: each of its steps ends with a start.',
  }),
  offered: () => ({
    words: 'The system offers the new build, and its full package can be had.',
    foundBy: 'Look at the update page of its settings.',
  }),
  'no-update': () => ({
    words: 'No update waits for its restart, and none merges.',
    foundBy: 'Look at the update page of its settings, and say in its room what it says.',
  }),
  unrooted: () => ({
    words: 'It has no root yet.',
    foundBy: 'Ask for root on the handset, and see whether it is granted.',
  }),
  'other-slot': () => ({
    words: 'What lies on the other slot was never read, so no plan falls back to it.',
    foundBy: 'Read what lies on it, or say in its room which image it is.',
  }),
  'waiting-build': () => ({
    words: 'The update that waits is of the newest build that is known.',
    foundBy: 'Look at the update page of its settings: it names the build.',
  }),
});
