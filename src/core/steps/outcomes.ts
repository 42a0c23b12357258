import type { OutcomeId } from '../words/outcomes';
import type { Deed } from './deed';

/*
 * What can come of a step where it does not go as described, and what is known of the handset then
 * (docs/method.md, "Expectation and observation").
 */

interface Outcome {
  /** At which steps it can be said. */
  readonly at: (deed: Deed) => boolean;
  /** What the step writes is unknown from then on. */
  readonly doubt: boolean;
  /** What it says of the root of the system on disk: that does not start, or starts without. */
  readonly root: 'broken' | 'lost' | null;
}

const starts = ({ starts: one, shown }: Deed) => one === true || shown?.as === 'start-once';
/** Its system is to run: it may be found not to, whatever is done there. */
const runs = ({ shown }: Deed) =>
  shown?.as === 'read-facts' || shown?.as === 'prove-root' || shown?.mode === 'system';
const writes = (deed: Deed) => deed.writes !== null || deed.touches === true;
const entersMode = ({ shown }: Deed) => shown?.as === 'enter' || shown?.as === 'list';
const provesRoot = ({ asksForRoot }: Deed) => asksForRoot === true;
const always = () => true;

export const OUTCOMES: Readonly<Record<OutcomeId, Outcome>> = {
  loops: { at: (deed) => starts(deed) || runs(deed), doubt: true, root: 'broken' },
  'stays-at-logo': { at: (deed) => starts(deed) || runs(deed), doubt: true, root: 'broken' },
  'comes-up-in-bootloader': { at: starts, doubt: false, root: 'broken' },
  'comes-up-in-recovery': { at: starts, doubt: false, root: 'broken' },
  'asks-for-wipe': { at: starts, doubt: false, root: 'broken' },
  'another-build': { at: starts, doubt: false, root: null },
  'no-root': { at: provesRoot, doubt: true, root: 'lost' },
  'root-denied': { at: provesRoot, doubt: false, root: null },
  refused: { at: (deed) => writes(deed), doubt: false, root: null },
  'cut-short': { at: (deed) => writes(deed), doubt: true, root: null },
  'starts-anyway': { at: (deed) => entersMode(deed) || writes(deed), doubt: true, root: null },
  'not-listed': { at: (deed) => entersMode(deed) || writes(deed), doubt: false, root: null },
  'another-screen': { at: always, doubt: true, root: null },
  'nothing-happened': { at: (deed) => !starts(deed), doubt: true, root: null },
  dark: { at: always, doubt: true, root: null },
  'own-words': { at: always, doubt: true, root: null },
};

/** What may be said of a step, in the order in which it is read. */
export const outcomesOf = (deed: Deed): readonly OutcomeId[] =>
  (Object.keys(OUTCOMES) as OutcomeId[]).filter((id) => OUTCOMES[id].at(deed));
