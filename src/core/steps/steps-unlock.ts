import { byMenu, choose, hold, quoted, told } from '../ways/speak';
import type { Ways } from '../ways/way-kinds';
import { NONE } from './gate-sets';
import type { StepAbout, StepKind } from './step-kind';

/* Steps that unlock the handset, and lock it again. */

function unlockText({ unlockPath, ways }: StepAbout): string {
  const last = `then ${choose(ways, 'line-unlock')} on the handset${byMenu(ways)}.`;
  switch (unlockPath) {
    case 'mailed code':
      return `Give the code over the link, ${last}`;
    case 'command':
      return `Unlock over the link, ${last}`;
    case 'key chord':
      return `In its download mode ${hold(ways, 'keys-unlock')}, ${last}`;
    case 'none':
      return 'This handset cannot be unlocked.';
  }
}

const askedLast = (ways: Ways, id: 'line-unlock' | 'line-lock', general: string) => {
  const name = told(ways, id, '');
  return name === '' ? general : `${name}?`;
};

function guardWords(ways: Ways): string {
  const guard = told(ways, 'setting-guard', '');
  return guard === ''
    ? 'a guard setting may hide it; else this model cannot be unlocked.'
    : `“${guard}” hides it; turn that off and look again. Still none: this model cannot be unlocked.`;
}

export const UNLOCKING = {
  'unlock-switch': {
    deed: { writes: null, gates: NONE, changes: true, waits: true },

    stage: 'Unlock',
    seconds: [60, 300],
    button: 'It is on, read it',
    text: ({ ways }) => ({
      title: 'Turn its unlock switch on',
      todo: `On the handset, in the developer options: turn ${quoted(ways, 'setting-unlock', 'the unlock switch')} on.`,
      see: 'The switch stays on.',
      dont: 'Turn it off again at the end of a round: a handset that does not start can then not be unlocked any more.',
      otherwise: `The switch is grey: keep the handset on Wi-Fi for up to 7 days; if it stays grey, the carrier does not allow it. There is no switch: ${guardWords(ways)}`,
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
    prompts: ({ ways }) => [
      {
        asks: askedLast(ways, 'line-unlock', 'Whether to unlock, which erases everything'),
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
    text: ({ handset, ways }) => ({
      title: `Lock ${handset} again: this erases everything`,
      todo: `Lock over the link, then ${choose(ways, 'line-lock')} on the handset${byMenu(ways)}.`,
      see: 'The bootloader says locked; the next start shows no notice.',
      dont: 'Lock over anything that is not the maker’s: it would never start again, and the unlock switch may be off.',
      otherwise:
        'It refuses and says why. Put that right first: locked as it is, the handset may never start again.',
    }),
    prompts: ({ ways }) => [
      {
        asks: askedLast(ways, 'line-lock', 'Whether to lock, which erases everything'),
        answer: 'Yes, every check holds.',
        wrong: 'The first line leaves it unlocked; nothing happens.',
      },
    ],
  },
} as const satisfies Record<string, StepKind>;
