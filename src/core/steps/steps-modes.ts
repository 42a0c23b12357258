import type { Unknown } from '../planning/context';
import { lowerFirst, upperFirst } from '../words/sentence';
import { NONE } from './gate-sets';
import { choose, darkFirst, hold, holdFirst, keyCard, line, quoted, told } from '../ways/speak';
import type { StepKind } from './step-kind';

/* Steps that bring the handset from one mode into another, lock and unlock it. */

const BOOTLOADER_SHOWS = 'a plain screen of its own, most often with serial and lock state';

/** How each is found out. */
const FIND_OUT: Readonly<Record<Unknown, string>> = {
  switch: 'Its unlock switch: look at its developer options, and say how the switch stands.',
  root: 'Root: ask for it on the handset, and see whether it is granted.',
  'recovery-home':
    'Where its recovery lives: list its partitions, or open the package of its build: a partition named recovery, else the ramdisk of vendor_boot or of boot.',
  fuse: 'The fuse of its bootloader: read the variables of the bootloader; until one says it, no older bootloader is written.',
  battery: 'The battery: read its percentage and write it down.',
  snapshot:
    'An update under way: look at the update page of its settings, and say whether one waits for its restart.',
  'other-slot': 'The other slot: read what lies on it, or open the package of the build it ran last.',
};

const DOWNLOAD_SHOWS = 'a screen that says download, or that a cable may be connected';

export const MODES = {
  'read-facts': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      readsAnew: true,
      plansAnew: true,
      shown: { as: 'read-facts' },
      proves: ['build-known'],
    },

    stage: 'Know',
    seconds: [2, 15],
    button: 'Read it over the link',
    text: ({ handset }) => ({
      title: `Read what ${handset} says of itself`,
      todo: 'Let Eterno read it over the link, or paste what it prints.',
      see: 'Build, slot, lock state and serial, each with its source.',
      dont: 'Type a build number from memory: one wrong character is another build.',
      otherwise: 'Nothing answers: the system must be running, trusted and on its cable.',
    }),
  },
  'find-out': {
    deed: { writes: null, gates: NONE, changes: false, readsAnew: true, plansAnew: true },

    stage: 'Know',
    seconds: [30, 300],
    text: ({ handset, unknown }) => ({
      title: `Find out what nobody has read of ${handset}`,
      todo: unknown.map((what) => FIND_OUT[what]).join(' '),
      see: 'An answer to each, in the handset’s own words.',
      dont: 'Guess: the rest of this plan depends on it.',
      otherwise: 'It differs from what the plan takes for granted: plan anew with what you found.',
    }),
  },
  debugging: {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      readsAnew: true,
      opens: { what: 'Debugging is on', closedBy: [] },
      shown: { as: 'list', mode: 'system' },
    },

    stage: 'Prepare',
    seconds: [60, 180],
    button: 'It is on, read it',
    text: ({ handset, ways }) => ({
      title: `Turn debugging on, on ${handset}`,
      todo: `Open ${quoted(ways, 'setting-build', 'the settings page that describes your phone or tablet')} and press its build line 7 times: a page for developers appears. Enable ${quoted(ways, 'setting-debugging', 'debugging')} there, connect your cable, and allow access when asked.`,
      see: 'The handset answers over the link, with its own serial.',
      dont: 'Restore a backup or sign in now: finish the round first, then bring your data back.',
      otherwise:
        'It is not listed: replug, another port, another cable, and look at its screen for the question.',
    }),
    prompts: ({ ways }) => [
      {
        asks: told(ways, 'ask-trust', 'Whether this computer may be trusted'),
        answer: 'Yes, always.',
        wrong: 'Not listed until it is plugged in again.',
      },
    ],
  },
  'auto-update-off': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      opens: { what: 'The system’s own updates are off', closedBy: [] },
    },

    stage: 'Put back',
    seconds: [30, 120],
    button: 'It is off, read it',
    text: ({ handset, ways }) => ({
      title: `Switch the updates of ${handset} off`,
      todo: `On the handset, in the developer options: switch ${quoted(ways, 'setting-updates', 'automatic updates')} off. Stay off Wi-Fi until that is done.`,
      see: 'The switch stays off.',
      dont: 'Connect it to Wi-Fi before that: it would install the newer build again by itself, and you would have to begin again.',
      otherwise: 'It updates already: call the update off before it starts.',
    }),
  },
  bootloader: {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'enter', mode: 'bootloader' },

      lists: true,
      reachedByLink: 'bootloader',
    },

    stage: 'Prepare',
    seconds: [20, 90],
    verb: 'enter bootloader',
    text: ({ handset, ways }) => ({
      title: `Bring ${handset} into its bootloader`,
      todo: `${darkFirst(ways)} Then ${hold(ways, 'keys-bootloader')}.`,
      see: `${upperFirst(told(ways, 'screen-bootloader', BOOTLOADER_SHOWS))}.`,
      dont: 'Press Power alone from dark: on most handsets that starts the system.',
      otherwise: 'It starts as usual: switch it off again, and hold the other keys before Power.',
    }),
    keyCard: ({ ways }) =>
      keyCard(ways, 'keys-bootloader', { shows: told(ways, 'screen-bootloader', BOOTLOADER_SHOWS) }),
  },
  recovery: {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'enter', mode: 'recovery' },
      lists: true,
      proves: ['recovery-opens'],
      letsGo: 'going into the recovery',
      reachedByLink: 'recovery',
    },

    stage: 'Prepare',
    seconds: [20, 90],
    button: 'I see the recovery, read it',
    verb: 'enter recovery',
    text: ({ handset, ways }) => ({
      title: `Bring ${handset} into its recovery`,
      todo: `From its bootloader, where it has one, ${choose(ways, 'line-recovery')}. From dark: ${hold(ways, 'keys-recovery')}.`,
      see: 'The menu of the recovery, and whose it is.',
      dont: 'Let the system start in between: some put the stock recovery back over yours, and a start is an early restart where an update waits.',
      otherwise:
        'It asks for a password it cannot know, or shows no files: this recovery does not open this release’s storage.',
    }),
    prompts: ({ ways, ownRecovery, recovery }) =>
      ownRecovery
        ? [
            {
              asks: `${recovery}: ${lowerFirst(told(ways, 'ask-changes', 'whether it may change the system, or only read'))}`,
              answer: 'Change. After a loop: only read.',
              wrong: 'It only reads: nothing can be installed until you come in once more.',
            },
            {
              asks: `${recovery}: ${lowerFirst(told(ways, 'ask-stock-recovery', 'whether the maker’s recovery may come back'))}`,
              answer: 'No: keep yours.',
              wrong: 'The next start puts the maker’s back, and yours has to be written again.',
            },
          ]
        : [],
    keyCard: ({ ways }) =>
      keyCard(ways, 'keys-recovery', {
        shows: told(ways, 'screen-recovery', 'the menu of a recovery, yours or the maker’s'),
      }),
  },
  download: {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'enter', mode: 'download' },
      lists: true,
    },

    stage: 'Prepare',
    seconds: [20, 90],
    button: 'I see Download, read it',
    text: ({ handset, ways }) => ({
      title: `Bring ${handset} into download mode`,
      todo: `${darkFirst(ways)} ${holdFirst(ways, 'keys-download')}, then let go.`,
      see: `${upperFirst(told(ways, 'screen-download', DOWNLOAD_SHOWS))}.`,
      dont: 'Go on holding them once it shows: on some handsets a longer press asks to unlock, and unlocking erases.',
      otherwise: 'It charges or starts: unplug, switch it off, hold the keys again, then plug in.',
    }),
    keyCard: ({ ways }) =>
      keyCard(ways, 'keys-download', { shows: told(ways, 'screen-download', DOWNLOAD_SHOWS) }),
  },
  'sideload-mode': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'enter', mode: 'sideload' },
      lists: true,
    },

    stage: 'Prepare',
    seconds: [15, 60],
    button: 'It waits for a package, read it',
    text: ({ ways }) => ({
      title: 'Choose the sideload in its recovery',
      todo: `In the recovery’s menu ${choose(ways, 'line-sideload')}.`,
      see: `${upperFirst(told(ways, 'screen-sideload', 'a screen that waits for a package'))}, and it is listed as such.`,
      dont: `Choose ${line(ways, 'line-erase')}: it stands in the same menu.`,
      otherwise: 'Not listed: replug, and choose it once more.',
    }),
  },
  start: {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      shown: { as: 'start', mode: 'system', build: 'its build', slot: 'its own' },

      proves: ['build-known', 'starts'],
      starts: true,
    },

    stage: 'Prove',
    seconds: [45, 180],
    button: 'Start the system',
    verb: 'restart',
    text: ({ slot, ways }) => ({
      title: slot === '' ? 'Start the system' : `Start the system from slot ${slot}`,
      todo: `Restart from here, or ${choose(ways, 'line-start')} on the handset. This is the restart that belongs here.`,
      see: 'The unlocked notice, then the system.',
      dont: 'Press keys during the notice.',
      otherwise: `It starts over and over: say so here, ${hold(ways, 'keys-loop')}, and write the stock image back.`,
    }),
    prompts: ({ ways, ownRecovery, recovery }) =>
      ownRecovery
        ? [
            {
              asks: `${recovery}, when you leave it: ${lowerFirst(told(ways, 'ask-app', 'whether to install its app, or root'))}`,
              answer: 'No: neither of them.',
              wrong:
                'Its app asks for updates of its own: take it off again. Root that it brings is another kit’s.',
            },
          ]
        : [],
  },
  'finish-start': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      shown: { as: 'start', mode: 'system', build: 'its build', slot: 'its own' },

      proves: ['build-known', 'starts'],
      starts: true,
    },

    stage: 'Prove',
    seconds: [120, 600],
    button: 'Watch it start',
    text: () => ({
      title: 'Let it start',
      todo: 'Wait. After a new build or a wipe the first start takes minutes.',
      see: 'The system, or its first questions.',
      dont: 'Switch it off because it takes long: twice the expected time is still normal.',
      otherwise: 'It asks for a wipe: do not. The newer build can still read the data.',
    }),
  },
  'start-with-recovery-keys': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      shown: { as: 'start', mode: 'system', build: 'its build', slot: 'its own' },
      proves: ['build-known', 'starts'],
      starts: true,
    },

    sureness: 'only said',
    stage: 'Prove',
    seconds: [60, 240],
    button: 'I hold the keys, watch it start',
    text: ({ handset }) => ({
      title: `Start ${handset} with the keys of its recovery`,
      todo: 'Root sits in the recovery here, so it runs only after this start. From dark: press the keys of the recovery, and let go as soon as the first logo shows.',
      see: 'The system, with root until the handset is next restarted or switched off.',
      dont: 'Start it with Power alone and take it for lost root: an ordinary start is without root here, and nothing is wrong.',
      otherwise: 'The menu of the recovery shows: the keys were held too long. Switch it off and try again.',
    }),
    keyCard: ({ ways }) =>
      keyCard(ways, 'keys-recovery', {
        shows: 'the logo, then the system',
        then: ', then let go',
        wrong: 'Power alone starts the system without root: nothing is lost, switch it off and try again.',
      }),
  },
  'other-slot': {
    deed: {
      writes: null,
      gates: ['merging'],
      changes: true,
      shown: { as: 'enter', mode: 'bootloader', slot: 'the other', also: ['slot'] },
    },

    stage: 'Flash',
    seconds: [10, 60],
    button: 'Select it',
    verb: 'select slot',
    text: ({ otherSlot }) => ({
      title: `Select slot ${otherSlot}`,
      todo: `Make slot ${otherSlot} the active one.`,
      see: `The bootloader says slot ${otherSlot}.`,
      dont: 'Do this while an update merges: the other slot is no system any more then.',
      otherwise: 'Refused: an update is merging.',
    }),
  },
  'same-slot': {
    deed: {
      writes: null,
      gates: ['merging'],
      changes: true,
      shown: { as: 'enter', mode: 'bootloader', also: ['slot'] },
    },

    stage: 'Flash',
    seconds: [10, 60],
    button: 'Select it',
    verb: 'select slot',
    text: ({ slot }) => ({
      title: `Select slot ${slot} once more`,
      todo: `Make slot ${slot} the active one, though it is: its tries come back. Nothing is written.`,
      see: `The bootloader says slot ${slot}.`,
      dont: 'Select the other slot instead: this one still holds your system.',
      otherwise: 'Refused: an update is merging.',
    }),
  },
} as const satisfies Record<string, StepKind>;
