import type { StepKind } from './step-kind';

/* An install package that root puts in from the running system: what lies there first, then it, then another look. */

export const PACKAGES = {
  'read-out': {
    deed: {
      writes: null,
      gates: [],
      changes: false,
      asksForRoot: true,
      shown: { as: 'read-back', mode: 'system' },
    },

    stage: 'Protect',
    seconds: [10, 120],
    button: 'Read it out and keep it',
    text: ({ install, handset }) => ({
      title: `Read out what ${install} overwrites`,
      todo: `Root reads ${handset}’s own image of each partition that ${install} writes, and Eterno keeps it: it is the way back.`,
      see: 'Each partition with its hash, in the vault.',
      dont: 'Install first and look for the old image afterwards.',
      otherwise:
        'It holds an image that Eterno can’t read: then nothing shows how to get back. Leave the package out.',
    }),
  },
  'package-inside': {
    deed: {
      writes: { what: 'package', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['sources', 'package-images', 'battery', 'snapshot'],
      changes: true,
      shown: { as: 'read-back', mode: 'system' },
      asksForRoot: true,
      proves: ['written'],
    },

    stage: 'Flash',
    seconds: [30, 240],
    button: 'Push it and install it',
    sureness: 'only said',
    text: ({ install, handset }) => ({
      title: `Install ${install} on ${handset}, from the running system`,
      todo: `Eterno puts ${install} on the handset, and root installs it. Each partition that it writes is read back and held against the image in the package.`,
      see: 'Each partition read back, with the hash of the image in the package.',
      dont: 'Restart before that is read: what you keep is on the handset only until then.',
      otherwise:
        'A hash differs: it has put something else there. What was read out is in the vault: write it back from there.',
    }),
  },
  'see-again': {
    deed: {
      writes: null,
      gates: [],
      changes: false,
      asksForRoot: true,
      shown: { as: 'read-back', mode: 'system' },
      proves: ['package-there'],
    },

    stage: 'Prove',
    seconds: [10, 120],
    button: 'Look once more',
    text: ({ install }) => ({
      title: `See that what ${install} wrote is still there`,
      todo: 'Some systems put their own image back when they start. Root reads the same partitions once more.',
      see: 'The same hashes as before the start.',
      dont: 'Take “it started” for a proof: an old recovery starts as well.',
      otherwise: 'A hash differs: the start has put the maker’s own image back.',
    }),
  },
} as const satisfies Record<string, StepKind>;
