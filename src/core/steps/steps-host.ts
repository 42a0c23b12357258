import { told } from '../ways/speak';
import { NONE } from './gate-sets';
import type { StepKind } from './step-kind';

/* Steps that a second handset as host needs beside every lane: to be the host, and to have the files. */

export const SECOND_HOST = {
  'second-host': {
    deed: { writes: null, gates: NONE, changes: false, shown: { as: 'list', mode: 'system' } },

    stage: 'Prepare',
    seconds: [120, 600],
    button: 'It is listed there, read it',
    text: ({ handset }) => ({
      title: `Make the second handset the host of ${handset}`,
      todo: `Plug the end of the adapter that leads into the second handset: that one gives power and commands. The plain end goes into ${handset}. On the second handset allow its tool to use what was plugged in, then let it list what it sees.`,
      see: `${handset} in its list, with its own serial.`,
      dont: 'Take the handset that charges for the host without looking: the one that gives power is the host. If it is the other one, turn the adapter round.',
      otherwise:
        'Nothing is listed: turn the adapter round, ask its screen for the permission again, and look whether the second handset gives power to anything at all.',
    }),
    prompts: ({ ways, handset }) => [
      {
        asks: 'On the second handset: may its tool use what was plugged in?',
        answer: 'Yes.',
        wrong: 'Nothing is listed until it is plugged in again.',
      },
      {
        asks: `On ${handset}: ${told(ways, 'ask-trust', 'whether this host may be trusted')}`,
        answer: 'Yes, always.',
        wrong: 'Not listed until it is plugged in again.',
      },
    ],
  },
  'carry-over': {
    deed: { writes: null, gates: NONE, changes: false, shown: { as: 'read-back' }, onlyShown: true },

    stage: 'Prepare',
    seconds: [60, 900],
    text: () => ({
      title: 'Carry the files over to the second handset',
      todo: 'Download the files below and bring them onto the second handset, into one folder. Show their hashes there, and paste what it prints.',
      see: 'The hash of each file as it stands here.',
      dont: 'Rename a file, or write one whose hash was not shown there: a copy that broke off looks like a whole one.',
      otherwise:
        'A hash differs: copy that file again. Its name has another case or a second ending: look at the list there.',
    }),
  },
} as const satisfies Record<string, StepKind>;
