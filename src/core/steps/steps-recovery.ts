import type { LineId } from '../ways/speak';
import { choose } from '../ways/speak';
import { NONE } from './gate-sets';
import type { Ways } from '../ways/way-kinds';
import type { StepAbout, StepKind, StepWords } from './step-kind';
import { onSlotWords } from './step-kind';

/*
 * Steps by way of a recovery, what root installs from inside, patching on the handset, and what is erased on
 * its own menu.
 */

const patchThere = (build: (about: StepAbout) => string): StepWords => ({
  stage: 'Patch',
  seconds: [120, 600],
  button: 'Push both and watch',
  verb: 'push',
  text: (about) => ({
    title: `Patch ${about.partition} of ${build(about)} on ${about.handset}`,
    todo: 'Eterno puts the stock image and the kit on the handset. Choose “Patch a file” there; the newest result is looked for in both usual folders and fetched back.',
    see: 'The result in the vault, proved here byte by byte against the stock image.',
    dont: 'Write what another handset’s patcher made without this proof: it may have read that handset in place of this one.',
    otherwise:
      'No new file: look whether the name on the handset has another case or ending, then patch again.',
  }),
});

const MENU_ASKS = (what: string) => () => [
  {
    asks: what,
    answer: 'Yes, if what it erases lies somewhere else.',
    wrong: 'The first line erases nothing; choose again.',
  },
];

const twice = (ways: Ways, id: LineId) => `In the recovery ${choose(ways, id)}, then say it once more.`;

export const THROUGH_RECOVERY = {
  'patch-there': {
    ...patchThere(({ build }) => build),
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'push', image: { what: 'stock', of: 'its build' } },
      proves: ['image-proved'],
      settledBy: { what: 'patched', of: 'its build' },
      keeps: 'one image',
    },
  },
  'patch-target-there': {
    ...patchThere(({ target }) => target),
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'push', image: { what: 'stock', of: 'the target' } },
      proves: ['image-proved'],
      settledBy: { what: 'patched', of: 'the target' },
      keeps: 'one image',
    },
  },
  'recovery-once': {
    deed: {
      writes: null,
      gates: ['sources', 'unlocked', 'battery', 'recovery-image', 'recovery-handset', 'tool', 'listed'],
      changes: true,
      shown: { as: 'start-once', mode: 'recovery' },
      touches: true,
      lists: true,
      proves: ['recovery-opens'],
      image: { what: 'own recovery', of: 'its build' },
    },

    stage: 'Flash',
    seconds: [30, 120],
    button: 'Send it and start it',
    verb: 'start once',
    text: ({ recovery }) => ({
      title: `Start ${recovery} once, from memory`,
      todo: 'Send the recovery and let it start. Nothing on the handset is written, and it is gone when you leave it.',
      see: `The menu of ${recovery}.`,
      dont: 'Leave it before what you came for is done: it would have to be sent again.',
      otherwise:
        'The old system starts: this bootloader starts nothing from memory. Its screen stays dark: the recovery is of another variant.',
    }),
  },
  'back-up-image': {
    deed: { writes: null, gates: NONE, changes: false, proves: ['data-imaged'] },

    stage: 'Protect',
    seconds: [120, 1800],
    button: 'Take the image',
    text: ({ handset, recovery }) => ({
      title: `Take an image of the data of ${handset}`,
      todo: `${recovery} reads its data as one file, and Eterno keeps that file off the handset. It is read back and counted.`,
      see: 'Its size, its hash, and how many files are in it.',
      dont: 'Use it on another handset or release: it can only go back onto this handset, under this release.',
      otherwise:
        'It asks for a password it cannot know, or sees no files: this recovery does not open this release’s encryption.',
    }),
  },
  'recovery-inside': {
    deed: {
      writes: { what: 'recovery', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: [
        'sources',
        'stock-kept',
        'parts-kept',
        'room',
        'battery',
        'recovery-image',
        'recovery-handset',
        'recovery-home',
      ],
      changes: true,
      shown: { as: 'write', mode: 'system' },
      asksForRoot: true,
      proves: ['written'],
      image: { what: 'own recovery', of: 'its build' },
    },

    stage: 'Flash',
    seconds: [30, 120],
    button: 'Write it from inside',
    sureness: 'only said',
    text: ({ recovery, recoveryHome, slot }) => ({
      title: `Write ${recovery} to ${onSlotWords(recoveryHome, slot)} from inside`,
      todo: 'Root on the running system writes the recovery. The path of the partition is read on the handset, and what was written is read back.',
      see: `${recoveryHome} read back with the hash of the recovery.`,
      dont: 'Type a path from a guide: another model’s path is another partition here.',
      otherwise: 'The hash differs: write once more. Nothing else was touched.',
    }),
  },
  'zip-inside': {
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery', 'root-app'],
      changes: true,
      shown: { as: 'read-back', mode: 'system' },
      asksForRoot: true,
      proves: ['written'],
      image: { what: 'patched', of: 'its build' },
      letsGo: 'making it lasting',
      root: 'lasting',
    },

    stage: 'Flash',
    seconds: [60, 240],
    button: 'Push the kit and install it',
    verb: 'push',
    text: ({ partition }) => ({
      title: 'Install the kit from the running system',
      todo: `Eterno puts the kit on the handset; root installs it onto ${partition} from inside. What it made is read back and held against the image proved here.`,
      see: `${partition} read back with the hash that was proved.`,
      dont: 'Restart before it is read back.',
      otherwise:
        'The hash differs: the kit on the handset is another version. Write the proved image instead.',
    }),
  },
  'erase-cache': {
    deed: { writes: null, gates: NONE, changes: true },

    stage: 'Prepare',
    seconds: [20, 120],
    button: 'The cache is empty',
    text: ({ ways }) => ({
      title: 'Erase the cache',
      todo: `In the recovery’s menu ${choose(ways, 'line-cache')}. Nothing of yours is in it.`,
      see: 'It says that the cache is empty.',
      dont: 'Choose the line below it: that one erases more. Where nothing else is known to be wrong, try a start before you go on.',
      otherwise: 'There is no such line: this handset has no cache of its own, go on.',
    }),
  },
  'wipe-keep-storage': {
    deed: { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },

    stage: 'Flash',
    seconds: [60, 240],
    button: 'It is erased, the storage is kept',
    text: ({ handset, ways }) => ({
      title: `Erase everything on ${handset} but its storage`,
      todo: twice(ways, 'line-keep-storage'),
      see: 'It says that apps and settings are gone and the storage is kept.',
      dont: 'Expect it to help where the keys belong to a newer patch level: the storage keeps those keys.',
      otherwise: 'It does not open the storage: then only erasing everything, or formatting, is left.',
    }),
    prompts: MENU_ASKS('Erase apps and settings, keep the storage?'),
  },
  'factory-reset': {
    deed: { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },

    stage: 'Flash',
    seconds: [120, 600],
    button: 'Everything is erased',
    text: ({ handset, ways }) => ({
      title: `Erase everything on ${handset}`,
      todo: twice(ways, 'line-erase'),
      see: 'It says that everything is erased. Its encryption stays.',
      dont: 'Begin while an account or the theft guard is on: it asks for that account afterwards.',
      otherwise:
        'It fails on one partition: never erase metadata alone. Write the whole build again, then erase.',
    }),
    prompts: MENU_ASKS('Erase everything?'),
  },
  'format-data': {
    deed: { writes: null, gates: ['backup', 'snapshot'], changes: true, touches: true },

    stage: 'Flash',
    seconds: [120, 600],
    button: 'Data is formatted',
    text: ({ handset, ways }) => ({
      title: `Format the data of ${handset}: its encryption goes too`,
      todo: `${twice(ways, 'line-format')} This is more than erasing: data is laid out anew, unencrypted.`,
      see: 'It says that data is formatted.',
      dont: 'Format where erasing would do.',
      otherwise: 'It fails: start the recovery once more, then format again.',
    }),
    prompts: MENU_ASKS('Format the data?'),
  },
} as const satisfies Record<string, StepKind>;
