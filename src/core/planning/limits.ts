import type { ActionId } from './actions';
import type { PlanContext } from './context';

/* What the person's limits rule out, action by action (docs/method.md, "The planner"). */

/** On a handset with two slots they change the one that does not run. */
const OTHER_SLOT: readonly ActionId[] = [
  'take-update',
  'take-full-update',
  'patch-other-slot',
  'other-slot',
  'sideload',
  'write-build-both',
];

/** Why a limit forbids an action, or null. */
export function forbidden({ limits, profile }: PlanContext, action: ActionId): string | null {
  if (limits.oneSlot && profile.slotCount === 2 && OTHER_SLOT.includes(action))
    return 'only the slot that runs may be changed';
  return null;
}

/** A second handset carries every image over by hand first. */
export const extraTrips = ({ limits }: PlanContext, writesOverLink: boolean) =>
  limits.secondHandset && writesOverLink ? 1 : 0;
