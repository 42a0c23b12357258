import { isKnown, told } from '../ways/speak';
import type { Ways } from '../ways/way-kinds';
import { NONE } from './gate-sets';
import type { StepKind } from './step-kind';

/* Root that is let in from inside the running system of a handset that stays locked, and taken off again. */

/** What a restart in the middle means, where somebody noted it. */
function restartWords(ways: Ways): string {
  const way = ways('inside-restart');
  if (!isKnown(way))
    return 'It restarts by itself: nobody has noted whether that is a failed try. Look for root afterwards; without it, try again.';
  return way.value === 'normal'
    ? 'It restarts by itself: with this way that belongs to it. Look for root afterwards.'
    : 'It restarts by itself: that is a failed try, and nothing has changed. Try again, or leave it.';
}

const lastsWords = (ways: Ways) => {
  const way = ways('inside-lasts');
  if (!isKnown(way)) return 'Root is there. How long it stays shows at the next restart.';
  return way.value === 'lasting'
    ? 'Root is there, and stays after a restart.'
    : 'Root is there, and gone after the next restart.';
};

const howWords = (ways: Ways) => {
  const how = told(ways, 'inside-start', '');
  return how === ''
    ? 'On the handset: begin it the way that you noted for this build.'
    : `On the handset: ${how}.`;
};
const undoWords = (ways: Ways) => {
  const how = told(ways, 'inside-undo', '');
  return how === ''
    ? 'On the handset: take off what let root in, and remove its app.'
    : `On the handset: ${how}. Remove its app too.`;
};

export const INSIDE = {
  'open-root': {
    deed: {
      writes: null,
      gates: NONE,
      changes: true,
      opens: { what: 'What lets root in is on the handset', closedBy: ['undo-inside'] },
    },

    sureness: 'only said',
    stage: 'Flash',
    seconds: [120, 600],
    button: 'Watch for it',
    text: ({ ways }) => ({
      title: 'Get root in the running system',
      todo: howWords(ways),
      see: lastsWords(ways),
      dont: 'Take an update afterwards: few builds have this gap, and the next one usually closes it.',
      otherwise: restartWords(ways),
    }),
  },
  'undo-inside': {
    deed: { writes: null, gates: NONE, changes: true },

    sureness: 'only said',
    stage: 'Flash',
    seconds: [60, 240],
    button: 'It is taken off, look',
    text: ({ ways }) => ({
      title: 'Take root off from inside',
      todo: undoWords(ways),
      see: 'Its app is gone. What runs keeps root until the restart that comes next.',
      dont: 'Remove the app alone where it has a way of its own to take root off: that comes first.',
      otherwise: 'It comes back after the restart: it was not taken off whole. Begin again from here.',
    }),
  },
} as const satisfies Record<string, StepKind>;
