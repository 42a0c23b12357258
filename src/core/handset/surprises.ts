import type { SurpriseId } from '../words/surprises';
import type { HandsetProfile, HandsetState } from './state';
import { modulesLoaded, otherSlot } from './state';

/*
 * Surprises that wait in a simulated handset, and what of it they change when their moment comes (docs/method.md,
 * "Practice"). Those that are about time or a write come from whoever plays it.
 */

/** Percent: less than any write is let begin with. */
export const NEARLY_EMPTY = 9;

type Comes = (before: HandsetState, after: HandsetState) => Partial<HandsetState> | null;

/** Its first start of a build that is not the one which ran before. */
const newBuildRuns = (before: HandsetState, { mode, running }: HandsetState, was: string | null) =>
  mode === 'system' && before.mode !== 'system' && running !== null && was !== null && running.build !== was;

const updateTaken = (before: HandsetState, after: HandsetState) =>
  before.update === null && after.update !== null;

/** @param was the build that ran last, before what is running now */
const comings = (
  { slotCount }: Pick<HandsetProfile, 'slotCount'>,
  was: string | null,
): Readonly<Partial<Record<SurpriseId, Comes>>> => ({
  'low-battery': (before, after) => (updateTaken(before, after) ? { batteryPercent: NEARLY_EMPTY } : null),
  'bad-module': (before, after) => {
    const [first] = modulesLoaded(after.modules);
    return updateTaken(before, after) && first !== undefined
      ? { modules: { ...after.modules, breaks: [first] } }
      : null;
  },
  'debugging-off': (before, after) =>
    newBuildRuns(before, after, was) ? { settings: { ...after.settings, debugging: false } } : null,
  'denying-app': (before, after) =>
    newBuildRuns(before, after, was) && after.running?.rooted === true ? { appDenies: true } : null,
  'slot-changed': (before, after) => {
    const other = otherSlot(after.active);
    const { bootable, gone = false } = after.slots[other];
    const same = after.builds.a === after.builds.b && after.update === null && after.snapshot === 'none';
    return slotCount === 2 &&
      before.mode !== 'bootloader' &&
      after.mode === 'bootloader' &&
      same &&
      bootable &&
      !gone
      ? { active: other }
      : null;
  },
  'stuck-merge': (before, after) =>
    before.snapshot !== 'merging' && after.snapshot === 'merging' ? { mergeStuck: true } : null,
});

export interface CameOver {
  readonly state: HandsetState;
  readonly came: readonly SurpriseId[];
}

/**
 * What comes over a handset with a change of it.
 * @param waiting what is still to come
 * @param was fingerprint of the build that ran last
 */
export function comeOver(
  profile: Pick<HandsetProfile, 'slotCount'>,
  before: HandsetState,
  after: HandsetState,
  waiting: readonly SurpriseId[],
  was: string | null,
): CameOver {
  const all = comings(profile, was);
  let state = after;
  const came = waiting.filter((id) => {
    const change = all[id]?.(before, state) ?? null;
    if (change !== null) state = { ...state, ...change };
    return change !== null;
  });
  return { state, came };
}
