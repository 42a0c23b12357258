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

export const assumptionWords = wordsBy<Assumption>({
  'root-place': ({ partition }) => `Root sits in ${partition}, by rule of thumb only.`,
  'target-level': ({ sdk }) => `Its new release has platform level ${sdk}, by rule of thumb.`,
  platform: () => 'Its platform level is not known.',
  'switch-on': () => 'Its unlock switch is on.',
  unlocked: () => 'It is unlocked.',
  'two-slots': () => 'It has two slots.',
  'recovery-home': () => 'Where its recovery lives was never read, so no recovery is written.',
  'starts-nothing': () => 'Its bootloader starts nothing from memory.',
  'no-download': () => 'It has no download mode.',
  'writes-nothing': () => 'Its bootloader is taken to write nothing: it was never read.',
  'target-fuse': () =>
    'The bootloader of the wanted build is not below the fuse; its image tells before it is written.',
  'data-at-fault': () => 'Its image is the stock one, so what keeps it from starting lies in its data.',
  offered: () => 'The system offers the new build, and its full package can be had.',
  'no-update': () => 'No update waits for its restart, and none merges.',
  unrooted: () => 'It has no root yet.',
  'other-slot': () => 'What lies on the other slot was never read, so no plan falls back to it.',
  'waiting-build': () => 'The update that waits is of the newest build that is known.',
});

const PROPERTIES = 'Paste the properties that its system prints.';
const VARIABLES = 'Paste the variables that its bootloader prints.';

/** The step that finds it out, in one sentence. */
export const assumptionFoundBy = wordsBy<Assumption>({
  'root-place': () => 'Open the package of its build in Firmware: its images tell.',
  'target-level': () => 'Open the package of that build in Firmware.',
  platform: () => PROPERTIES,
  'switch-on': () => 'Look at its developer options, and say in its room how the switch stands.',
  unlocked: () => VARIABLES,
  'two-slots': () => VARIABLES,
  'recovery-home': () => `${VARIABLES} Or open the package of its build in Firmware.`,
  'starts-nothing': () => 'Say in its room whether its bootloader starts an image from memory.',
  'no-download': () => 'Say in its room whether it has a download mode.',
  'writes-nothing': () => VARIABLES,
  'target-fuse': () => 'Take the bootloader out of that build’s package in Firmware.',
  'data-at-fault': () => 'The repair itself finds it out: each of its steps ends with a start.',
  offered: () => 'Look at the update page of its settings.',
  'no-update': () => 'Look at the update page of its settings, and say in its room what it says.',
  unrooted: () => 'Ask for root on the handset, and see whether it is granted.',
  'other-slot': () => 'Read what lies on it, or say in its room which image it is.',
  'waiting-build': () => 'Look at the update page of its settings: it names the build.',
});
