import { hold } from '../ways/speak';
import { NONE } from './gate-sets';
import type { StepKind } from './step-kind';

/* Steps that prove, put back and write down. */

export const PROOF = {
  'prove-root': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      shown: { as: 'prove-root', root: true, slot: 'its own', image: { what: 'patched', of: 'its build' } },
      asksForRoot: true,
      proves: ['root-works'],
    },

    stage: 'Prove',
    seconds: [10, 60],
    button: 'Prove root',
    text: ({ partition }) => ({
      title: 'Prove root',
      todo: 'Ask for root, and allow it when the handset asks.',
      see: `Root granted with user id 0, and ${partition} read back with the hash that was written.`,
      dont: 'Believe an icon, or that it started: neither proves root.',
      otherwise:
        'Denied at once: the image that runs is not the patched one. Denied after the prompt: ask again and allow it.',
    }),
    prompts: () => [
      { asks: 'Somebody asks for root', answer: 'Allow.', wrong: 'Denied: ask again from here.' },
    ],
  },
  'prove-no-root': {
    deed: { writes: null, gates: NONE, changes: false, shown: { as: 'prove-stock' }, proves: ['no-root'] },

    stage: 'Prove',
    seconds: [10, 60],
    button: 'Ask for root',
    text: ({ handset }) => ({
      title: `Ask ${handset} for root: there has to be none`,
      todo: 'Ask for root on the running system. On a stock system nothing answers, and nothing asks on its screen.',
      see: 'No such command: nothing on this system grants root.',
      dont: 'Take a denial for it: where somebody can deny it, root is there.',
      otherwise: 'It is granted, or its screen asks: the system that runs still carries root.',
    }),
  },
  'finish-root-app': {
    deed: { writes: null, gates: NONE, changes: false },

    stage: 'Prove',
    seconds: [60, 180],
    button: 'It is finished, read it',
    text: () => ({
      title: 'Let the root app finish',
      todo: 'On the handset: open the root app and let it finish. It shows one or two minutes after the start. Then let it offer no more updates of itself.',
      see: 'The app says its own version and that of the kit that runs, which belong together, and asks for nothing more.',
      dont: 'Take the update that it offers for itself: a newer app over an older kit is a pair that nobody tried.',
      otherwise:
        'Missing after two minutes: install the same version again from its file. Hidden under another name: show it.',
    }),
    prompts: () => [
      {
        asks: 'The root app offers an update of itself',
        answer: 'No.',
        wrong: 'App and kit do not belong together any more: put the older app back from its file.',
      },
    ],
  },
  'modules-on': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      readsAnew: true,
      asksForRoot: true,
      proves: ['modules-back'],
    },

    stage: 'Put back',
    seconds: [180, 900],
    button: 'Bring them back, batch by batch',
    text: ({ ways }) => ({
      title: 'Bring the modules back',
      todo: 'Switch the next batch on and restart. Say how it went: that decides the next batch. A module that breaks it is named and stays off.',
      see: 'It starts, and the modules of the batch are on.',
      dont: 'Hold keys when it loops: some kits start without any module after a few failed starts.',
      otherwise: `It loops on and on: ${hold(ways, 'keys-loop')}, then write the stock image back. Without root no module is loaded.`,
    }),
  },
  'look-around': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      here: true,
      waits: true,
      proves: ['data-there', 'calls', 'payments'],
    },

    stage: 'Put back',
    seconds: [60, 300],
    text: ({ handset }) => ({
      title: `Look around on ${handset}`,
      todo: 'Check what only you can see, and say how it is: your data, calls and mobile data, payments and work apps.',
      see: 'What worked before works now.',
      dont: 'Say that something works before you have tried it: the next round relies on what you say here.',
      otherwise: 'Say what does not work: it is written down, and you can still close the round.',
    }),
  },
  close: {
    deed: { writes: null, gates: NONE, changes: false, here: true, waits: true },

    stage: 'Keep',
    seconds: [10, 60],
    text: ({ handset }) => ({
      title: `Close the round for ${handset}`,
      todo: 'Read the sign-off. Each claim shows its evidence, strong or weak.',
      see: 'Durations and evidence in the log.',
      dont: 'Close the round on a claim that you have not seen for yourself.',
      otherwise: 'A claim that is not reached: show it first, or close the round as not reached.',
    }),
  },
} as const satisfies Record<string, StepKind>;
