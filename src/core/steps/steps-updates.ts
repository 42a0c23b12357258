import { told } from '../ways/speak';
import { NONE } from './gate-sets';
import type { Prompt, StepAbout, StepKind } from './step-kind';
import { onSlotWords } from './step-kind';

/*
 * Steps of an update from inside: between the first and the restart that belongs there, nothing may restart.
 */

const offers =
  (asks: string) =>
  ({ ways }: StepAbout): Prompt[] => {
    const offer: Prompt = {
      asks: told(ways, 'ask-restart', 'To restart now'),
      answer: 'Later.',
      wrong: 'The new build starts without root. The way on is then root again, from the computer.',
    };
    return [offer, { ...offer, asks }];
  };
const TONIGHT = offers('The update is ready. Restart tonight?');

export const UPDATES = {
  'modules-off': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      asksForRoot: true,
      opens: { what: 'The modules are off', closedBy: ['modules-on'] },
    },

    stage: 'Prepare',
    seconds: [60, 180],
    button: 'Switch them off',
    text: ({ modulesOff }) => ({
      title: modulesOff.length === 0 ? 'Switch the modules off' : `Switch off ${modulesOff.join(', ')}`,
      todo: 'Switch them off, and check that each one says so. They come back at the end of the round. The Modules room says why it is these.',
      see: 'Each module says that it is off.',
      dont: 'Remove them: their settings would go too.',
      otherwise: 'One stays on: switch it off by itself, then look again.',
    }),
  },
  'modules-seen-off': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      shown: { as: 'start', mode: 'system', build: 'its build', slot: 'its own' },
      asksForRoot: true,
      starts: true,
    },

    stage: 'Prepare',
    seconds: [90, 240],
    button: 'Restart it and look',
    verb: 'restart',
    text: ({ modulesOff }) => ({
      title: 'Restart, and see that the modules are off',
      todo: `Restart the system, then look in the root app: ${modulesOff.length === 0 ? 'every module' : modulesOff.join(', ')} still says off, and what it does is gone.`,
      see: 'It starts with root, and says off of each module that was switched off.',
      dont: 'Go on with one that is on again: on the new build it would load at the first start.',
      otherwise: 'One is on again: switch it off by itself, or take it off, and restart once more.',
    }),
  },
  'stock-back': {
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: [
        'image-build',
        'image-partition',
        'root-sources',
        'sources',
        'image-proof',
        'stock-kept',
        'battery',
        'root-app',
      ],
      changes: true,
      shown: { as: 'write', mode: 'system' },

      asksForRoot: true,
      opens: {
        what: 'The stock image lies on disk while root runs',
        closedBy: ['start', 'finish-start', 'write-root'],
      },
      image: { what: 'stock', of: 'its build' },
      holds: {
        why: 'The stock image lies on disk; root only still runs.',
        cost: 'The next start would be without root.',
      },
    },

    stage: 'Prepare',
    seconds: [30, 120],
    button: 'Write it from inside',
    text: ({ partition, slot }) => ({
      title: `Put the stock ${onSlotWords(partition, slot)} back on disk, without a restart`,
      todo: 'Root on the running system writes the stock image of the installed build. Root goes on running until the next restart.',
      see: `${onSlotWords(partition, slot)} read back with the hash of the stock image.`,
      dont: 'Restart. From here on each restart before the other slot is patched loses root.',
      otherwise:
        'The hash differs: write once more before the update is taken, an incremental one would refuse.',
    }),
  },
  'stock-recovery-back': {
    deed: {
      writes: { what: 'recovery', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['image-build', 'image-partition', 'sources', 'stock-kept', 'battery'],
      changes: true,
      shown: { as: 'write', mode: 'system' },
      asksForRoot: true,
      proves: ['written'],
      image: { what: 'stock recovery', of: 'its build' },
    },

    stage: 'Prepare',
    seconds: [30, 120],
    button: 'Write it from inside',
    text: ({ recoveryHome, slot }) => ({
      title: `Put the stock ${onSlotWords(recoveryHome, slot)} back on disk, without a restart`,
      todo: 'Root on the running system writes the stock recovery of the installed build: an incremental update refuses any other.',
      see: `${onSlotWords(recoveryHome, slot)} read back with the hash of the stock image.`,
      dont: 'Restart: where the stock root image is back on disk too, the next start would be without root.',
      otherwise: 'The hash differs: write once more before the update is taken.',
    }),
  },
  'take-update': {
    deed: {
      writes: { what: 'whole build', slot: 'the other' },
      expects: [{ see: 'update', waits: true }],
      gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
      changes: true,
      shown: null,

      opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
      holds: {
        why: 'The new build waits on the other slot, unpatched.',
        cost: 'It would start without root, and rooting it again needs the computer.',
      },
      slips: ['early restart'],
    },

    stage: 'Flash',
    seconds: [360, 900],
    button: 'Watch for the update',
    text: ({ target }) => ({
      title: `Take ${target} on the handset, without its restart`,
      todo: 'On the handset: take the update. Wait until it asks for a restart, and say Later.',
      see: 'It says that the update is ready and asks for a restart.',
      dont: 'Restart, whoever asks. Close no lid, let no battery run down.',
      otherwise: 'It refuses: a partition is not stock. Put that one back, or take the whole build instead.',
    }),
    prompts: TONIGHT,
  },
  'take-full-update': {
    deed: {
      writes: { what: 'whole build', slot: 'the other' },
      expects: [{ see: 'update', waits: true }],
      gates: ['sources', 'stock-kept', 'battery', 'snapshot'],
      changes: true,
      shown: null,

      opens: { what: 'An update waits for its start', closedBy: ['merge', 'cancel-update', 'start'] },
      holds: {
        why: 'The new build waits on the other slot, unpatched.',
        cost: 'It would start without root, and rooting it again needs the computer.',
      },
      slips: ['early restart'],
    },

    stage: 'Flash',
    seconds: [480, 1200],
    button: 'Watch for the update',
    text: ({ target }) => ({
      title: `Take the whole package of ${target} on the handset, without its restart`,
      todo: 'On the handset: take the whole package. It works whatever the old slot holds. Say Later when it asks for a restart.',
      see: 'It says that the update is ready and asks for a restart.',
      dont: 'Restart, whoever asks.',
      otherwise: 'It refuses: for another handset, older, unfinished merge, or too little room.',
    }),
    prompts: TONIGHT,
  },
  'patch-other-slot': {
    deed: {
      writes: { what: 'root', slot: 'the other' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['root-sources', 'sources', 'kit', 'battery', 'root-app'],
      changes: true,
      shown: { as: 'write', mode: 'system' },

      asksForRoot: true,
      proves: ['image-proved', 'written'],
      image: { what: 'patched', of: 'the target' },
      keeps: 'one image',
      holds: {
        why: 'The other slot is patched and waits for the one restart that belongs there.',
        cost: 'It would start rooted, and unwatched: take it here.',
      },
    },

    stage: 'Flash',
    seconds: [60, 180],
    button: 'Patch it and write it',
    text: ({ partition, otherSlot }) => ({
      title: `Patch ${onSlotWords(partition, otherSlot)}, without a restart`,
      todo: 'Where it asks to restart, choose Later first. Then the new stock image is read out of the slot that waits, kept, patched and proved here, and written back by root.',
      see: `${onSlotWords(partition, otherSlot)} read back with the hash of the proved image.`,
      dont: 'Restart before you see that line: the next start runs what is on disk, and until then that has no root.',
      otherwise:
        'The image there is not stock, or not of the new build: nothing is written, and the reason is said.',
    }),
    prompts: offers('The root app: restart to finish?'),
  },
  merge: {
    deed: { writes: null, gates: NONE, changes: true, waits: true, proves: ['merged'] },

    sureness: 'inferred',
    stage: 'Prove',
    seconds: [600, 1800],
    button: 'Watch it merge',
    text: () => ({
      title: 'Wait until the update has merged',
      todo: 'Leave it running and plugged in. The old slot is no way back any more; the stock image in the vault is.',
      see: 'The handset says that nothing is merging.',
      dont: 'Erase or format anything, or change the slot: there would be no system left.',
      otherwise: 'It takes hours: battery saving holds it up. Plug it in and leave its screen on.',
    }),
  },
  'cancel-update': {
    deed: { writes: null, gates: NONE, changes: true },

    sureness: 'only said',
    stage: 'Prepare',
    seconds: [30, 120],
    button: 'Watch for it',
    text: () => ({
      title: 'Call the waiting update off',
      todo: 'On the handset: call the update off. Until it was started once, nothing is lost by that.',
      see: 'It says that no update waits.',
      dont: 'Do this after the new build has started.',
      otherwise: 'It is merging: wait for the end instead.',
    }),
  },
  'make-lasting': {
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: [
        'image-build',
        'image-partition',
        'root-sources',
        'sources',
        'image-proof',
        'stock-kept',
        'kit',
        'battery',
      ],
      changes: true,
      shown: { as: 'write', mode: 'system' },
      asksForRoot: true,
      proves: ['written'],
      image: { what: 'patched', of: 'its build' },
      letsGo: 'making it lasting',
      root: 'lasting',
    },

    stage: 'Flash',
    seconds: [30, 120],
    button: 'Write it from inside',
    text: ({ partition, slot }) => ({
      title: `Make it lasting: write ${onSlotWords(partition, slot)} from inside`,
      todo: 'Root on the running system writes the image that was tried, and it is read back.',
      see: `${onSlotWords(partition, slot)} read back with the hash of the image that was started.`,
      dont: 'Let the root app write other bytes than those that were tried.',
      otherwise: 'The hash differs: write once more, before any restart.',
    }),
  },
} as const satisfies Record<string, StepKind>;
