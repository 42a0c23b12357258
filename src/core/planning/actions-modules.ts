import { start } from '../handset/start';
import { modulesLoaded } from '../handset/state';
import { onHandset } from './action-kit';
import type { PlanContext, PlanState } from './context';
import { hasMade } from './context';
import { isUpdate } from './goals';

/* Modules off before an update, seen off after a restart, and back on the build that they are to run on. */

/** Made by switching modules off. */
export const MODULES_OFF = 'modules were off';
/** Made by a restart with them off, on the build that they ran on. */
export const MODULES_SEEN_OFF = 'modules were seen off';

/** The build that they ran on still runs; later it would be too late. */
const onTheirBuild = ({ start: first }: PlanContext, { handset }: PlanState) =>
  handset.running?.build === first.running?.build;

/** An ordinary restart of this handset comes up with root on the build that runs: it loses nothing. */
export function keepsRootOverRestart({ profile }: PlanContext, { handset }: PlanState): boolean {
  const { running, update } = handset;
  if (running === null || update !== null) return false;
  const { outcome, state } = start(profile, { ...handset, mode: 'starting' });
  return outcome.result === 'started' && outcome.rooted && state.running?.build === running.build;
}

export const MODULE_ACTIONS = {
  'modules-off': onHandset(
    { title: 'Switch modules off', minutes: [1, 2], who: 'root' },
    (context, state) => {
      const { modules } = state.handset;
      if (modules.ids.length === 0 || !modules.on) return 'there is none on';
      if (context.modulesOff?.length === 0) return 'none of them has to be off';
      return onTheirBuild(context, state) ? [{ do: 'modules', on: false }] : 'it is for the build before';
    },
    () => [MODULES_OFF],
  ),
  'modules-seen-off': onHandset(
    { title: 'Restart, and see that they are off', minutes: [1.5, 4], risk: 0.5, who: 'handset' },
    (context, state) => {
      if (!hasMade(state, MODULES_OFF)) return 'none was switched off';
      if (hasMade(state, MODULES_SEEN_OFF)) return 'they were seen off';
      if (modulesLoaded(state.handset.modules).length > 0) return 'they are on';
      if (!onTheirBuild(context, state)) return 'it is for the build before';
      return keepsRootOverRestart(context, state)
        ? [{ do: 'restart' }, { do: 'finish-start' }, { do: 'ask-root' }, { do: 'answer-root', allow: true }]
        : 'a restart would come up without root, or on another build';
    },
    () => [MODULES_SEEN_OFF],
  ),
  'modules-on': onHandset(
    { title: 'Bring the modules back', minutes: [3, 15], risk: 2, who: 'root' },
    ({ goal, target }, { handset }) => {
      if (handset.modules.on) return 'they are on';
      // what they are tried on is the build that they are to run on
      if (isUpdate(goal) && handset.running?.build !== target) return 'they come back on the new build';
      return handset.snapshot === 'none' ? [{ do: 'modules', on: true }] : 'the update has to merge first';
    },
  ),
} as const;
