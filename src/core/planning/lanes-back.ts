import { onSlot } from '../handset/builds';
import type { Lane } from './lane';
import { needTwoSlots, needComputer, nothing, first } from './lane';

/* Schools that lead back: to stock, to a lock, to a handset that starts again. */

export const BACK_LANES: readonly Lane[] = [
  {
    id: 'stock-images-back',
    title: 'Stock images back',
    goals: ['return to stock', 'repair'],
    actions: [
      'open-installed-package',
      'take-stock',
      'bootloader',
      'write-stock',
      'write-stock-recovery',
      'start',
      'finish-start',
    ],
    decisive: ['write-stock', 'write-stock-recovery'],
    forIt: 'fewest writes, keeps data',
    againstIt: 'the bootloader stays unlocked',
    ruledOut: first(needComputer),
    trialStart: false,
  },
  {
    id: 'lock-again',
    title: 'Stock on every slot, started once, then locked',
    goals: ['lock again'],
    actions: [
      'open-installed-package',
      'take-stock',
      'take-whole',
      'bootloader',
      'write-stock',
      'write-stock-recovery',
      'write-build-both',
      'start',
      'finish-start',
      'lock',
    ],
    decisive: ['lock'],
    forIt: 'the maker’s protections work again',
    againstIt: 'it erases everything; with one changed partition left, the handset would never start again',
    ruledOut: first(needComputer),
    trialStart: false,
  },
  {
    id: 'erase-and-start',
    title: 'Erase, then start',
    goals: ['repair'],
    actions: [
      'recovery',
      'bootloader',
      'recovery-once',
      'erase-cache',
      'wipe-keep-storage',
      'factory-reset',
      'format-data',
      'start',
      'finish-start',
    ],
    decisive: ['wipe-keep-storage', 'factory-reset', 'format-data'],
    forIt: 'repairs faults in the data, with the smallest wipe that is enough',
    againstIt: 'what it erases is gone: the last thing to try',
    ruledOut: nothing,
    trialStart: false,
  },
  {
    id: 'other-slot',
    title: 'The other slot',
    goals: ['repair'],
    actions: ['bootloader', 'other-slot', 'start', 'finish-start', 'cancel-update'],
    decisive: ['other-slot'],
    forIt: 'nothing is written',
    againstIt: 'works only while that slot is whole, nothing has merged, and its build can read the data',
    ruledOut: first(needComputer, needTwoSlots, (context) => {
      const other = context.start.active === 'a' ? 'b' : 'a';
      return context.start.images[onSlot(context.profile.rootPartition, other)]
        ? null
        : 'The other slot is empty.';
    }),
    trialStart: false,
  },
  {
    id: 'whole-build-repair',
    title: 'The same or a newer whole build, without wiping',
    goals: ['repair', 'return to stock', 'downgrade'],
    actions: [
      'auto-update-off',
      'open-installed-package',
      'take-stock',
      'open-target-package',
      'take-whole',
      'bootloader',
      'write-build',
      'recovery',
      'factory-reset',
      'start',
      'finish-start',
    ],
    decisive: ['write-build'],
    forIt: 'the whole system is intact afterwards',
    againstIt: 'big download; root and custom recovery are gone afterwards',
    ruledOut: first(needComputer, nothing),
    trialStart: false,
  },
];
