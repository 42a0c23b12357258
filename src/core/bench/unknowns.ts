import type { HandsetProfile } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { GoalId, Unknown } from '../planning/context';
import { UNKNOWNS } from '../planning/context';
import { goesToStock } from '../planning/goals';
import type { Subject } from './bench';

/* What of a handset nobody has read, and which of it a plan depends on. */

/** Whether anything at all was read or told of the slot that does not run. */
export function otherSlotRead({ cells, facts: { typed, value } }: Subject): boolean {
  const other = otherSlot(typed.currentSlot === 'b' ? 'b' : 'a');
  const flags = ['slot-successful', 'slot-unbootable', 'slot-retry-count'];
  return (
    cells.some(({ slot, sha256 }) => slot === other && sha256 !== null) ||
    flags.some((flag) => value(`${flag}:${other}`) !== null)
  );
}

type Slots = Pick<HandsetProfile, 'slotCount' | 'mergesUpdates'>;

/** Whether its update's state was read or told, or there is none to read. */
export const snapshotKnown = ({ facts }: Pick<Subject, 'facts'>, profile: Slots) =>
  !profile.mergesUpdates || facts.value('snapshot') !== null;

/**
 * What is found out before the first change, in the order of `UNKNOWNS`, by looking at the running system. What
 * the link reads at the first step is not asked of the person, and what the bootloader says is read on the way to
 * the first write; where its fuse or the home of a recovery is not known, nothing that depends on it is planned.
 */
export function unknownOf(
  subject: Subject,
  profile: Slots,
  { goal, locked }: { readonly goal: GoalId; readonly locked: boolean },
): Unknown[] {
  const { facts, root, handset } = subject;
  // it changes nothing; and one that does not run shows nothing
  if (goal === 'prove root' || root === 'broken') return [];
  const byHand = handset.link === 'hand';
  const matters: Readonly<Partial<Record<Unknown, boolean>>> = {
    switch: byHand && locked && facts.value('unlockAllowed') === null,
    // who asks for a first root says that there is none; a locked bootloader starts no changed image
    root: byHand && root === 'unknown' && !locked && goal !== 'first root' && goal !== 'repair',
    snapshot: byHand && !snapshotKnown(subject, profile),
    'other-slot': profile.slotCount === 2 && goesToStock(goal) && !otherSlotRead(subject),
  };
  return UNKNOWNS.filter((what) => matters[what] === true);
}
