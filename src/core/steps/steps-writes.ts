import { choose, hold, isKnown, told } from '../ways/speak';
import { STOCK_RECOVERY, STOCK, PATCHED, SET, WHOLE } from './gate-sets';
import type { StepAbout, StepKind, StepText, StepWords } from './step-kind';
import { onSlotWords } from './step-kind';

/* Steps that write to the handset from outside. */

const CUT =
  'Link lost: the partition is unknown until it is written again. Stay in this mode, plug in, write again.';
const HANDS_OFF = 'Touch the cable, close the lid, or press keys while it writes.';

const imageText = (what: string, target: string, see: string): StepText => ({
  title: `Write ${what} to ${target}`,
  todo: `Write to ${target}. Over the link, serial, lock state, slot and battery are read once more before the first byte.`,
  see,
  dont: HANDS_OFF,
  otherwise: CUT,
});
const STAYS = 'The handset says it is writing, then that it is done. It stays in its bootloader.';

/** Both slots where the package's own list writes both. */
const rootTarget = ({ partition, slot, otherSlot, bothSlots }: StepAbout): string =>
  bothSlots ? `${partition} on slots ${slot} and ${otherSlot}` : onSlotWords(partition, slot);

const write = (text: (about: StepAbout) => StepText): StepWords => ({
  stage: 'Flash',
  seconds: [5, 60],
  verb: 'write',
  text,
});
const whole = (title: (about: StepAbout) => string, more: string): StepWords => ({
  stage: 'Flash',
  seconds: [300, 900],
  verb: 'write',
  text: (about) => ({
    title: title(about),
    todo: `Bootloader first, restart into it, radio, restart into it, then the rest without a restart. ${more}`,
    see: 'Partition by partition, each with its own answer. It restarts into its bootloader twice by itself.',
    dont: `${HANDS_OFF} Never end with a command that locks it again, whatever a guide’s last line says.`,
    otherwise:
      'One write is refused: Eterno writes nothing more and shows the reason. It never writes anything below the fuse.',
  }),
});
/** How its maker cuts a set, where somebody noted it. */
function cutWords({ ways }: StepAbout): string {
  const cut = ways('set-parts');
  return isKnown(cut) ? ` Its sets are cut so: ${cut.value.join('; ')}.` : '';
}

const set = (title: (about: StepAbout) => string, region: string): StepWords => ({
  stage: 'Flash',
  seconds: [300, 900],
  verb: 'write',
  text: (about) => ({
    title: title(about),
    todo: `Send the set over the link, part by part. ${region} It starts by itself at the end.${cutWords(about)}`,
    see: 'Part by part, then the notice, then the system.',
    dont: `${HANDS_OFF} Write a second time with the same tool on the computer before you have restarted that tool.`,
    otherwise:
      'Refused: below the maker’s floor, below the fuse, or a locked bootloader over a changed archive.',
  }),
});

export const WRITES = {
  'write-root': {
    ...write((about) => imageText('the patched image', rootTarget(about), STAYS)),
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: PATCHED,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
      image: { what: 'patched', of: 'its build' },
      slips: ['wrong slot'],
    },
  },
  'write-stock': {
    ...write((about) => imageText('the stock image', rootTarget(about), STAYS)),
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: STOCK,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
      image: { what: 'stock', of: 'its build' },
    },
  },
  'write-other-stock': {
    ...write(({ partition, slot }) => ({
      ...imageText('the stock image', onSlotWords(partition, slot), STAYS),
      dont: `${HANDS_OFF} The slot that runs stays as it is: look at the slot in the command.`,
    })),
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: STOCK,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
      image: { what: 'stock', of: 'its build' },
      onOther: true,
    },
  },
  'write-recovery': {
    ...write(({ recoveryHome, slot, recovery }) => ({
      ...imageText(recovery, onSlotWords(recoveryHome, slot), STAYS),
      dont: 'Start the system right after it: go into the recovery at once, or the system may put the stock one back.',
    })),
    deed: {
      writes: { what: 'recovery', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: [
        'sources',
        'stock-kept',
        'parts-kept',
        'unlocked',
        'slot',
        'room',
        'battery',
        'recovery-image',
        'recovery-handset',
        'recovery-home',
        'tool',
        'listed',
      ],
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },

      proves: ['written'],
      image: { what: 'own recovery', of: 'its build' },
      holds: {
        why: 'The system may put the stock recovery back at its start.',
        cost: 'The recovery would be gone; write it again.',
      },
    },
  },
  'write-stock-recovery': {
    ...write(({ recoveryHome, slot }) =>
      imageText('the stock recovery', onSlotWords(recoveryHome, slot), STAYS),
    ),
    deed: {
      writes: { what: 'recovery', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: STOCK_RECOVERY,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
      image: { what: 'stock recovery', of: 'its build' },
    },
  },
  'root-zip': {
    deed: {
      writes: { what: 'root', slot: 'its own' },
      expects: [{ see: 'partition', holds: 'its image' }],
      gates: ['root-sources', 'sources', 'stock-kept', 'kit', 'battery'],
      changes: true,
      shown: { as: 'read-back', mode: 'recovery' },
      proves: ['written'],
      image: { what: 'patched', of: 'its build' },
    },

    stage: 'Flash',
    seconds: [60, 180],
    button: 'Push the kit and watch',
    verb: 'push',
    text: ({ recovery, ways }) => ({
      title: 'Install root through the recovery',
      todo: `Eterno pushes the kit to the handset and checks what arrived. Then ${choose(ways, 'line-install')} in the menu of ${recovery}.`,
      see: 'It says that the kit is installed. The partition is read back and held against the image that was proved here.',
      dont: 'Let the recovery install an app of its own when you leave it.',
      otherwise:
        'The package is not in the list: the recovery does not open this storage. Push it again, or start the system and copy it from there.',
    }),
    prompts: ({ ways }) => [
      {
        asks: told(ways, 'ask-changes', 'Whether it may change the system, or only read'),
        answer: 'Change.',
        wrong: 'Read-only: the kit cannot write, choose again.',
      },
    ],
  },
  'start-once': {
    deed: {
      writes: null,
      gates: PATCHED,
      changes: true,
      shown: { as: 'start-once', mode: 'system' },

      touches: true,
      opens: { what: 'Root runs from memory only', closedBy: ['make-lasting', 'zip-inside'] },
      image: { what: 'patched', of: 'its build' },
      holds: {
        why: 'Root runs from memory; the disk holds the stock image.',
        cost: 'The next start would be without root.',
      },
      root: 'from memory',
    },

    stage: 'Flash',
    seconds: [60, 180],
    button: 'Send it and start it',
    verb: 'start once',
    text: ({ partition, ways }) => ({
      title: `Start the patched ${partition} once, from memory`,
      todo: 'Send the image and let it start. Nothing on the handset is written.',
      see: 'The system, with root for as long as it runs.',
      dont: 'Restart before it is made lasting: the disk still holds the stock image.',
      otherwise: `It loops: ${hold(ways, 'keys-loop')}. The disk is as it was, so the next start is the old one.`,
    }),
  },
  'write-build': {
    ...whole(
      ({ target, slot }) => `Write all of ${target}${slot === '' ? '' : ` to slot ${slot}`}, without wiping`,
      'Data stays.',
    ),
    deed: {
      writes: { what: 'whole build', slot: 'its own', parts: { patched: false, wipes: false } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: WHOLE,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
    },
  },
  'write-build-both': {
    ...whole(({ target }) => `Write all of ${target} to both slots, without wiping`, 'Data stays.'),
    deed: {
      writes: { what: 'whole build', slot: 'both', parts: { patched: false, wipes: false } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: WHOLE,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
    },
  },
  'write-build-patched': {
    ...whole(
      ({ target, slot }) =>
        `Write all of ${target}${slot === '' ? '' : ` to slot ${slot}`}, the patched image in it`,
      'The patched image goes in the place of the stock one, before the first start. Data stays.',
    ),
    deed: {
      writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: false } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: WHOLE,
      changes: true,
      shown: { as: 'write', mode: 'bootloader' },
      proves: ['written'],
    },
  },
  'write-set': {
    ...set(
      ({ target }) => `Write the firmware set of ${target}, keeping data`,
      'The region part that keeps data is taken.',
    ),
    deed: {
      writes: { what: 'whole build', slot: 'its own', parts: { patched: false, wipes: false } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: SET,
      changes: true,
      shown: { as: 'write', mode: 'download' },
      proves: ['written'],
    },
  },
  'write-set-patched': {
    ...set(
      ({ target }) => `Write the firmware set of ${target} with the patched image, keeping data`,
      'The patched image is in the place of the stock one, and the region part keeps data.',
    ),
    deed: {
      writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: false } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: SET,
      changes: true,
      shown: { as: 'write', mode: 'download' },
      proves: ['written'],
    },
  },
  'write-set-wipe': {
    ...set(
      ({ target }) => `Write the firmware set of ${target} with the patched image: this erases everything`,
      'The region part that erases is taken, because data of another build would not open.',
    ),
    deed: {
      writes: { what: 'whole build', slot: 'its own', parts: { patched: true, wipes: true } },
      expects: [{ see: 'partition', holds: 'every image of the build' }],
      gates: [
        'sources',
        'stock-kept',
        'parts-kept',
        'unlocked',
        'slot',
        'battery',
        'whole',
        'fuse',
        'maker-floor',
        'snapshot',
        'region-part',
        'backup',
        'tool',
        'listed',
      ],
      changes: true,
      shown: { as: 'write', mode: 'download' },
      proves: ['written'],
    },
  },
  sideload: {
    deed: {
      writes: { what: 'whole build', slot: 'the other' },
      expects: [{ see: 'build', after: 'the next start' }],
      gates: ['sources', 'battery', 'package', 'snapshot'],
      changes: true,
      shown: { as: 'sideload', mode: 'sideload' },
      proves: ['written'],
      wholeBuild: true,
    },

    stage: 'Flash',
    seconds: [600, 1500],
    verb: 'sideload',
    text: ({ target }) => ({
      title: `Send the package of ${target} by sideload`,
      todo: 'Choose the package below; it goes to the handset as it is, and the recovery judges it by its signature, model and date.',
      see: 'Percent by percent, and at the end that it is installed. It stands in its recovery then.',
      dont: 'Pull the cable at 47 % because it stands still: it checks what it has.',
      otherwise:
        'Refused: for another handset, older than what is installed, or an update still merges. Nothing has changed then.',
    }),
  },
} as const satisfies Record<string, StepKind>;
