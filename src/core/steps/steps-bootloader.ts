import type { Deed } from './deed';
import { fetch, packageText, take } from './steps-here';
import type { StepKind } from './step-kind';

/* Bootloaders by themselves: taken out, put in for a while, and put back. */

/** Its image in the vault ends it, and no word. */
const taken = (ofOlder?: true): Deed => ({
  writes: null,
  gates: [],
  changes: false,
  here: true,
  room: 'firmware',
  settledBy: { what: 'bootloader', of: 'its build' },
  keeps: 'one image',
  ...(ofOlder ? { ofOlder } : {}),
});

const written = {
  writes: { what: 'bootloader', slot: 'its own' },
  expects: [{ see: 'partition', holds: 'its image' }],
  gates: ['sources', 'unlocked', 'slot', 'battery', 'fuse', 'snapshot', 'tool', 'listed'],
  changes: true,
  shown: { as: 'write', mode: 'bootloader' },
  image: { what: 'stock bootloader', of: 'its build' },
} as const satisfies Deed;

export const BOOTLOADERS = {
  'open-older-package': {
    ...fetch(({ build }) => packageText(build)),
    deed: {
      writes: null,
      gates: [],
      changes: false,
      here: true,
      room: 'firmware',
      settledBy: { what: 'package', of: 'its build' },
      ofOlder: true,
    },
  },
  'take-bootloader': {
    ...take(({ build }) => ({
      title: `Take out the bootloader of ${build}`,
      todo: 'Take bootloader out of the package of the installed build. It is what goes back in at the end.',
      see: 'The image in the vault, with where it came from.',
      dont: 'Go on without it: the older one would have to stay.',
      otherwise:
        'The package holds none: then this way is closed. Take a package that holds all of the build.',
    })),
    button: 'Take out bootloader',
    deed: taken(),
  },
  'take-older-bootloader': {
    ...take(({ build }) => ({
      title: `Take out the bootloader of ${build}`,
      todo: 'Take bootloader out of the package of the older build. Its level is read from its own data.',
      see: 'The image in the vault, with its level.',
      dont: 'Take one of another variant: it would be the end of the handset.',
      otherwise: 'The package holds none: look for another build of the list.',
    })),
    button: 'Take out bootloader',
    deed: taken(true),
  },
  'bootloader-down': {
    deed: {
      ...written,
      ofOlder: true,
      opens: { what: 'An older bootloader is in', closedBy: ['bootloader-back'] },
    },

    stage: 'Flash',
    seconds: [60, 300],
    button: 'Write the older bootloader',
    verb: 'write',
    sureness: 'only said',
    text: ({ build, handset }) => ({
      title: `Put the bootloader of ${build} in for a while`,
      todo: `Eterno writes it alone and restarts ${handset} into it. It takes the recovery that the installed one shuts out; the installed one goes back in afterwards.`,
      see: 'The bootloader lists the older version, and its fuse as before.',
      dont: 'Pull the cable, or start the system with it.',
      otherwise: 'Refused: nothing was written, and this way is closed. Go on with the installed one.',
    }),
  },
  'bootloader-back': {
    deed: { ...written, proves: ['written'] },

    stage: 'Flash',
    seconds: [60, 300],
    button: 'Write the installed bootloader',
    verb: 'write',
    text: ({ build, handset }) => ({
      title: `Put the bootloader of ${build} back`,
      todo: `Eterno writes the installed build’s own bootloader and restarts ${handset} into it. The recovery and root stay.`,
      see: 'The bootloader lists its own version again.',
      dont: 'Pull the cable, or leave the older one in: the next update expects its own.',
      otherwise: 'Refused, or cut short: stay in the bootloader and write it once more.',
    }),
  },
  'older-bootloader': {
    deed: {
      writes: { what: 'bootloader', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['sources', 'parts-kept', 'unlocked', 'battery', 'whole', 'fuse', 'snapshot', 'tool', 'listed'],
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
      image: { what: 'stock bootloader', of: 'the target' },
    },

    stage: 'Flash',
    seconds: [60, 300],
    button: 'Write the older bootloader',
    verb: 'write',
    sureness: 'only said',
    text: ({ target }) => ({
      title: `Write the bootloader of ${target}`,
      todo: 'The known way down wants an older bootloader first. It is written alone, then read again before anything else.',
      see: 'The bootloader lists the older version, and its fuse as before.',
      dont: 'Pull the cable, or go on with a fuse that was never read: below it the handset never starts again.',
      otherwise: 'Refused: the way down is closed. Nothing was written.',
    }),
  },
} as const satisfies Record<string, StepKind>;
