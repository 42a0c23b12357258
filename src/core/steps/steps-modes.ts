import type { Unknown } from '../planning/context';
import { NONE } from './gate-sets';
import type { KeyCard, StepAbout, StepKind } from './step-kind';

/* Steps that bring the handset from one mode into another, lock and unlock it. */

const POWER_FIRST = 'Hold Power until the screen is dark.';

const BOOTLOADER_KEYS: KeyCard = {
  keys: ['Volume down', 'Power'],
  hold: '2 s, from dark',
  shows: 'a plain screen that lists product, serial and lock state',
  wrong: 'Power alone from dark starts the system: nothing is lost, hold Power until dark again.',
};

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

const unlockText = (about: StepAbout) =>
  ({
    'mailed code':
      'Give the code over the link, then choose “Unlock it, erase everything” on the handset: volume keys move, Power chooses.',
    command:
      'Unlock over the link, then choose “Unlock it, erase everything” on the handset: volume keys move, Power chooses.',
    'key chord':
      'In its download mode hold Volume up for three seconds, then choose “Unlock it, erase everything”: volume keys move, Power chooses.',
    none: 'This handset cannot be unlocked.',
  })[about.unlockPath];

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
    text: ({ handset }) => ({
      title: `Turn debugging on, on ${handset}`,
      todo: 'Open the settings page that describes your phone or tablet and press its build line 7 times: a page for developers appears. Enable debugging there, connect your cable, and allow access when asked.',
      see: 'The handset answers over the link, with its own serial.',
      dont: 'Restore a backup or sign in now: finish the round first, then bring your data back.',
      otherwise:
        'It is not listed: replug, another port, another cable, and look at its screen for the question.',
    }),
    prompts: () => [
      {
        asks: 'Trust this computer?',
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
    text: ({ handset }) => ({
      title: `Switch the updates of ${handset} off`,
      todo: 'On the handset, in the developer options: switch automatic updates off. Stay off Wi-Fi until that is done.',
      see: 'The switch stays off.',
      dont: 'Connect it to Wi-Fi before that: it would install the newer build again by itself, and you would have to begin again.',
      otherwise: 'It updates already: call the update off before it starts.',
    }),
  },
  'unlock-switch': {
    deed: { writes: null, gates: NONE, changes: true, waits: true },

    stage: 'Unlock',
    seconds: [60, 300],
    button: 'It is on, read it',
    text: () => ({
      title: 'Turn its unlock switch on',
      todo: 'On the handset, in the developer options: turn the unlock switch on.',
      see: 'The switch stays on.',
      dont: 'Turn it off again at the end of a round: a handset that does not start can then not be unlocked any more.',
      otherwise:
        'The switch is grey: keep the handset on Wi-Fi for up to 7 days; if it stays grey, the carrier does not allow it. There is no switch: this model cannot be unlocked.',
    }),
  },
  unlock: {
    deed: {
      writes: null,
      gates: ['battery', 'backup', 'snapshot', 'switch'],
      changes: true,
      shown: { as: 'unlock', lock: 'unlocked' },
      touches: true,
    },

    stage: 'Unlock',
    seconds: [25, 120],
    button: 'Ask it to unlock',
    verb: 'unlock',
    text: (about) => ({
      title: 'Unlock the bootloader: this erases everything',
      todo: unlockText(about),
      see: 'The bootloader says unlocked. From now on a notice shows at every start.',
      dont: 'Unlock before everything that is only on the handset has been copied somewhere else. Unlocking also ends debugging and the trust of this computer.',
      otherwise: 'Refused: the switch is off, or the code is not this handset’s.',
    }),
    prompts: () => [
      {
        asks: 'Unlock it, erase everything?',
        answer: 'Yes, if your backup lies off the handset.',
        wrong: 'The first line leaves it locked; nothing happens.',
      },
    ],
  },
  lock: {
    deed: {
      writes: null,
      gates: ['battery', 'makers-own', 'started', 'switch-seen', 'index', 'snapshot', 'backup'],
      changes: true,
      shown: { as: 'lock', lock: 'locked' },
      touches: true,

      proves: ['locked'],
    },

    sureness: 'only said',
    stage: 'Flash',
    seconds: [25, 120],
    button: 'Ask it to lock',
    verb: 'lock',
    text: ({ handset }) => ({
      title: `Lock ${handset} again: this erases everything`,
      todo: 'Lock over the link, then choose “Lock it, erase everything” on the handset.',
      see: 'The bootloader says locked; the next start shows no notice.',
      dont: 'Lock over anything that is not the maker’s: it would never start again, and the unlock switch may be off.',
      otherwise:
        'It refuses and says why. Put that right first: locked as it is, the handset may never start again.',
    }),
    prompts: () => [
      {
        asks: 'Lock it, erase everything?',
        answer: 'Yes, every check holds.',
        wrong: 'The first line leaves it unlocked; nothing happens.',
      },
    ],
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
    text: ({ handset }) => ({
      title: `Bring ${handset} into its bootloader`,
      todo: `${POWER_FIRST} Then hold Volume down and Power together for two seconds.`,
      see: 'A plain screen that lists product, serial, slot and lock state.',
      dont: 'Hold Power alone from dark: that starts the system.',
      otherwise: 'It starts as usual: hold Power until dark, and press Volume down first.',
    }),
    keyCard: () => BOOTLOADER_KEYS,
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
    text: ({ handset }) => ({
      title: `Bring ${handset} into its recovery`,
      todo: `From the bootloader choose “Recovery”. From dark: hold Volume up and Power for two seconds.`,
      see: 'The menu of the recovery, and whose it is.',
      dont: 'Let the system start in between: some put the stock recovery back over yours, and a start is an early restart where an update waits.',
      otherwise:
        'It asks for a password it cannot know, or shows no files: this recovery does not open this release’s storage.',
    }),
    keyCard: () => ({
      keys: ['Volume up', 'Power'],
      hold: '2 s, from dark',
      shows: 'a menu with “Start the system” in its first line',
      wrong: 'Volume down and Power is the bootloader: choose “Recovery” there.',
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
    text: ({ handset }) => ({
      title: `Bring ${handset} into download mode`,
      todo: `${POWER_FIRST} Hold both volume keys for two seconds with the cable in, then let go.`,
      see: 'A screen that says Download, with product and serial.',
      dont: 'Go on holding Volume up: three seconds of it alone ask to unlock, and unlocking erases.',
      otherwise: 'It charges or starts: unplug, hold Power until dark, both volume keys, then plug in.',
    }),
    keyCard: () => ({
      keys: ['Volume up', 'Volume down'],
      hold: '2 s, from dark, cable in',
      shows: 'a screen that says Download',
      wrong: 'Volume up alone for three seconds asks to unlock: choose the first line.',
    }),
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
    text: () => ({
      title: 'Choose the sideload in its recovery',
      todo: 'In the recovery’s menu choose “Package by sideload”.',
      see: 'It says that it waits for a package, and is listed as such.',
      dont: 'Choose “Erase everything”: it is the line below.',
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
    text: ({ slot }) => ({
      title: slot === '' ? 'Start the system' : `Start the system from slot ${slot}`,
      todo: 'Restart from here, or choose “Start the system” on the handset. This is the restart that belongs here.',
      see: 'The unlocked notice, then the system.',
      dont: 'Press keys during the notice.',
      otherwise:
        'It starts over and over: say so here, hold Volume down and Power for three seconds, and write the stock image back.',
    }),
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
      dont: 'Hold Power because it takes long: twice the expected time is still normal.',
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
    keyCard: () => ({
      keys: ['Volume up', 'Power'],
      hold: '2 s, from dark, then let go',
      shows: 'the logo, then the system',
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
} as const satisfies Record<string, StepKind>;
