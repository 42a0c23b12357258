import { describe, expect, it } from 'vitest';
import { WORLDS } from '../../../tests/fixtures/lane-worlds';
import { OCTOBER, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { ACTIONS } from './actions';
import type { PlanContext, Weights } from './context';
import { PLAIN_WEIGHTS } from './context';
import { extraTrips, forbidden } from './limits';
import { learnPace } from './pace';
import type { LanePlan } from './plan-round';
import { planRound } from './plan-round';

/*
 * What every situation's plans are, word for word: a lane that loses a step, a figure or its place in the
 * order shows here.
 */

/** Lane, its steps, its figures, what survives and what is lost; the best lane first. */
const PLANS: Readonly<Record<keyof typeof WORLDS, readonly (readonly [string, string, string, string])[]>> = {
  'first root': [
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start prove-root finish-root-app',
      '15.5 to 74.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'first root, locked': [
    [
      'one-image-once',
      'open-installed-package take-stock patch unlock-switch bootloader unlock write-root start debugging prove-root finish-root-app',
      '22 to 93.5 min, 14.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 1 wipes',
      ' | data,warranty fuse',
    ],
  ],
  'first root by a code that is mailed': [
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader ask-code unlock write-root start debugging prove-root finish-root-app',
      '26 to 148.5 min, 18.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 1 wipes',
      ' | data,warranty fuse',
    ],
  ],
  'first root, boot, with a recovery at hand': [
    [
      'start-once-make-lasting',
      'open-installed-package take-stock patch bootloader start-once prove-root make-lasting finish-root-app',
      '15.5 to 74.5 min, 12 without root, 0 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start prove-root finish-root-app',
      '15.5 to 74.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'start-once-kit-inside',
      'open-installed-package take-stock patch bootloader start-once prove-root zip-inside finish-root-app',
      '16.5 to 76.5 min, 12 without root, 0 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'recovery-started-once',
      'open-installed-package take-stock patch-target bootloader recovery-once root-zip start prove-root finish-root-app',
      '16.5 to 77.5 min, 14 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock patch-target bootloader write-recovery recovery root-zip start prove-root finish-root-app',
      '17 to 79 min, 14.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'first root, patched on the handset': [
    [
      'one-image-once',
      'open-installed-package take-stock patch-there bootloader write-root start prove-root finish-root-app',
      '18.5 to 82.5 min, 16 without root, 1 restarts, 0 offers, 2 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'first root, an image of the data first': [
    [
      'recovery-started-once',
      'open-installed-package take-stock patch-target bootloader recovery-once back-up-image root-zip start prove-root finish-root-app',
      '26.5 to 107.5 min, 24 without root, 1 restarts, 0 offers, 2 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock patch-target bootloader write-recovery recovery back-up-image root-zip start prove-root finish-root-app',
      '27 to 109 min, 24.5 without root, 1 restarts, 0 offers, 2 trips, 1 downloads, 2 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'first root of a tablet': [
    [
      'one-image-once',
      'open-installed-package take-stock patch download unlock bootloader write-root start debugging prove-root finish-root-app',
      '21.5 to 90 min, 14 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 1 wipes',
      ' | data,warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock patch-target download unlock bootloader write-recovery recovery root-zip start debugging prove-root finish-root-app',
      '23 to 94.5 min, 15.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 1 wipes',
      ' | data,warranty fuse',
    ],
    [
      'firmware-set-patched',
      'open-installed-package take-whole patch-target download unlock download write-set-patched finish-start debugging prove-root finish-root-app',
      '29 to 114 min, 20.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 1 wipes',
      ' | data,warranty fuse',
    ],
  ],
  'root again, off': [
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start prove-root finish-root-app',
      '15.5 to 74.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'root again, modules off': [
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start prove-root finish-root-app modules-on',
      '18.5 to 89.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,modules | warranty fuse',
    ],
  ],
  'monthly update': [
    [
      'update-in-place-other-slot',
      'prove-root take-full-update patch-other-slot start prove-root merge',
      '21 to 57 min, 0 without root, 1 restarts, 4 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-patched',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build-patched start prove-root',
      '33.5 to 159.5 min, 8.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'sideload',
      'open-target-package take-target-stock patch-target recovery sideload-mode sideload bootloader write-root start prove-root merge',
      '37.5 to 129 min, 14.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build write-root start prove-root',
      '34.5 to 161.5 min, 9.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-seen-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build start bootloader write-root start prove-root',
      '36 to 166 min, 11 without root, 2 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'stock-update-start-over',
      'open-installed-package take-stock open-target-package take-target-stock patch-target bootloader write-stock start take-update bootloader write-root start prove-root merge',
      '43.5 to 185 min, 10 without root, 2 restarts, 2 offers, 0 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
  ],
  'monthly update, incremental only': [
    [
      'update-in-place-other-slot',
      'open-installed-package take-stock prove-root stock-back take-update patch-other-slot start prove-root merge',
      '30.5 to 116 min, 0 without root, 1 restarts, 4 offers, 0 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'monthly update, one module to go off': [
    [
      'update-in-place-other-slot',
      'prove-root modules-off modules-seen-off take-full-update patch-other-slot start prove-root merge modules-on',
      '26.5 to 78 min, 0 without root, 2 restarts, 4 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-patched',
      'open-installed-package take-stock open-target-package take-whole patch-target prove-root modules-off modules-seen-off bootloader write-build-patched start prove-root modules-on',
      '39.5 to 181.5 min, 8.5 without root, 2 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'sideload',
      'open-target-package take-target-stock patch-target prove-root modules-off modules-seen-off recovery sideload-mode sideload bootloader write-root start prove-root merge modules-on',
      '43.5 to 151 min, 14.5 without root, 2 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target prove-root modules-off modules-seen-off bootloader write-build write-root start prove-root modules-on',
      '40.5 to 183.5 min, 9.5 without root, 2 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'whole-build-seen-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target prove-root modules-off modules-seen-off bootloader write-build start bootloader write-root start prove-root modules-on',
      '42 to 188 min, 11 without root, 3 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
    [
      'stock-update-start-over',
      'open-installed-package take-stock open-target-package take-target-stock patch-target prove-root modules-off modules-seen-off bootloader write-stock start take-update bootloader write-root start prove-root merge modules-on',
      '49.5 to 207 min, 10 without root, 3 restarts, 2 offers, 0 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,modules | warranty fuse',
    ],
  ],
  'monthly update, its update waits': [
    [
      'update-in-place-other-slot',
      'prove-root patch-other-slot start prove-root merge',
      '13 to 37 min, 0 without root, 1 restarts, 2 offers, 0 trips, 0 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'patch-the-waiting-slot',
      'open-target-package take-target-stock patch-target bootloader write-root start prove-root merge',
      '24.5 to 101.5 min, 1.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-patched',
      'open-installed-package open-target-package take-whole patch-target cancel-update take-stock bootloader write-build-patched start prove-root',
      '34.5 to 161.5 min, 8.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-then-root',
      'open-installed-package open-target-package take-whole patch-target cancel-update take-stock bootloader write-build write-root start prove-root',
      '35.5 to 163.5 min, 9.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-seen-then-root',
      'open-installed-package open-target-package take-whole patch-target cancel-update take-stock bootloader write-build start bootloader write-root start prove-root',
      '37 to 168 min, 11 without root, 2 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'monthly update with a recovery': [
    [
      'update-in-place-other-slot',
      'prove-root take-full-update patch-other-slot recovery-inside start prove-root merge',
      '22 to 59 min, 0 without root, 1 restarts, 4 offers, 0 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root,recovery Lifeboat | warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build write-recovery recovery root-zip start prove-root',
      '36 to 166 min, 11 without root, 1 restarts, 0 offers, 2 trips, 2 downloads, 3 writes, 0 wipes',
      'data,root,recovery Lifeboat | warranty fuse',
    ],
  ],
  'monthly update of a tablet': [
    [
      'firmware-set-patched',
      'open-installed-package take-stock open-target-package take-whole patch-target download write-set-patched finish-start prove-root recovery-inside',
      '33.5 to 159.5 min, 6.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root,recovery Lifeboat | warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build write-recovery recovery root-zip start prove-root',
      '36 to 166 min, 11 without root, 1 restarts, 0 offers, 2 trips, 2 downloads, 3 writes, 0 wipes',
      'data,root,recovery Lifeboat | warranty fuse',
    ],
  ],
  'monthly update, only the slot that runs': [
    [
      'whole-build-patched',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build-patched start prove-root',
      '33.5 to 159.5 min, 8.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build write-root start prove-root',
      '34.5 to 161.5 min, 9.5 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-seen-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build start bootloader write-root start prove-root',
      '36 to 166 min, 11 without root, 2 restarts, 0 offers, 1 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'a second handset as host': [
    [
      'update-in-place-other-slot',
      'prove-root take-full-update patch-other-slot start prove-root merge',
      '21 to 57 min, 0 without root, 1 restarts, 4 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-patched',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build-patched start prove-root',
      '33.5 to 159.5 min, 8.5 without root, 1 restarts, 0 offers, 2 trips, 2 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'sideload',
      'open-target-package take-target-stock patch-target recovery sideload-mode sideload bootloader write-root start prove-root merge',
      '37.5 to 129 min, 14.5 without root, 1 restarts, 0 offers, 3 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build write-root start prove-root',
      '34.5 to 161.5 min, 9.5 without root, 1 restarts, 0 offers, 3 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'whole-build-seen-then-root',
      'open-installed-package take-stock open-target-package take-whole patch-target bootloader write-build start bootloader write-root start prove-root',
      '36 to 166 min, 11 without root, 2 restarts, 0 offers, 3 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'stock-update-start-over',
      'open-installed-package take-stock open-target-package take-target-stock patch-target bootloader write-stock start take-update bootloader write-root start prove-root merge',
      '43.5 to 185 min, 10 without root, 2 restarts, 2 offers, 2 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'a fuse never read': [
    [
      'update-in-place-other-slot',
      'prove-root take-full-update patch-other-slot start prove-root merge',
      '21 to 57 min, 0 without root, 1 restarts, 4 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'sideload',
      'open-target-package take-target-stock patch-target recovery sideload-mode sideload bootloader write-root start prove-root merge',
      '37.5 to 129 min, 14.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'stock-update-start-over',
      'open-installed-package take-stock open-target-package take-target-stock patch-target bootloader write-stock start take-update bootloader write-root start prove-root merge',
      '43.5 to 185 min, 10 without root, 2 restarts, 2 offers, 0 trips, 2 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'keep a recovery, rooted': [
    [
      'recovery-through-root',
      'open-installed-package take-stock prove-root recovery-inside recovery start',
      '13.5 to 69.5 min, 0.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'write-a-recovery',
      'open-installed-package take-stock bootloader write-recovery recovery start',
      '13.5 to 70 min, 2 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'keep a recovery in boot': [],
  'keep a recovery in boot, put in': [
    [
      'write-a-recovery',
      'open-installed-package take-stock rebuild-recovery patch-with-recovery bootloader write-recovery write-root recovery start',
      '16 to 76 min, 3 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 2 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'keep a recovery in vendor_boot, put in': [
    [
      'recovery-through-root',
      'open-installed-package take-stock take-stock-recovery rebuild-recovery prove-root recovery-inside recovery start',
      '14.5 to 73.5 min, 0.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
    [
      'write-a-recovery',
      'open-installed-package take-stock take-stock-recovery rebuild-recovery bootloader write-recovery recovery start',
      '14.5 to 74 min, 2 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,root | warranty fuse',
    ],
  ],
  'first root through a recovery in boot, put in': [
    [
      'start-once-make-lasting',
      'open-installed-package take-stock patch bootloader start-once prove-root make-lasting finish-root-app',
      '15.5 to 74.5 min, 12 without root, 0 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start prove-root finish-root-app',
      '15.5 to 74.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'start-once-kit-inside',
      'open-installed-package take-stock patch bootloader start-once prove-root zip-inside finish-root-app',
      '16.5 to 76.5 min, 12 without root, 0 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'recovery-started-once',
      'open-installed-package take-stock patch-target bootloader recovery-once root-zip start prove-root finish-root-app',
      '16.5 to 77.5 min, 14 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'through-the-recovery',
      'open-installed-package take-stock rebuild-recovery patch-with-recovery bootloader write-recovery recovery root-zip start prove-root finish-root-app',
      '17.5 to 81 min, 15 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 2 writes, 0 wipes',
      'data | warranty fuse',
    ],
  ],
  'return to stock with a recovery': [
    [
      'stock-images-back',
      'open-installed-package take-stock take-stock-recovery bootloader write-stock write-stock-recovery start',
      '14.5 to 72.5 min, 3.5 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 2 writes, 0 wipes',
      'data,warranty fuse | root,recovery Lifeboat',
    ],
    [
      'whole-build-repair',
      'open-installed-package take-whole bootloader write-build start',
      '21.5 to 94.5 min, 9.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data,warranty fuse | root,recovery Lifeboat',
    ],
  ],
  'lock again': [
    [
      'lock-again',
      'open-installed-package take-whole bootloader write-build-both start bootloader lock start',
      '33.5 to 120 min, 21.5 without root, 2 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 1 wipes',
      'warranty fuse | data,root',
    ],
  ],
  'repair a broken image': [
    [
      'stock-images-back',
      'open-installed-package take-stock bootloader write-stock start',
      '13 to 68.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data,warranty fuse | ',
    ],
    [
      'one-image-once',
      'open-installed-package take-stock patch bootloader write-root start',
      '14 to 70.5 min, 13 without root, 1 restarts, 0 offers, 0 trips, 1 downloads, 1 writes, 0 wipes',
      'data | warranty fuse',
    ],
    [
      'whole-build-repair',
      'open-installed-package take-whole bootloader write-build start',
      '21.5 to 94.5 min, 21.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 0 wipes',
      'data,warranty fuse | ',
    ],
  ],
  'repair what lies in the data': [
    [
      'erase-and-start',
      'recovery erase-cache factory-reset start',
      '8 to 17.5 min, 8 without root, 1 restarts, 0 offers, 0 trips, 0 downloads, 0 writes, 1 wipes',
      'warranty fuse | data',
    ],
  ],
  downgrade: [
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole bootloader write-build recovery factory-reset start auto-update-off',
      '39 to 170 min, 39 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 1 wipes',
      'warranty fuse | data',
    ],
    [
      'whole-build-repair',
      'open-installed-package take-stock open-target-package take-whole bootloader write-build recovery factory-reset start auto-update-off',
      '39 to 170 min, 39 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 1 wipes',
      'warranty fuse | data',
    ],
  ],
  'downgrade by a known edge': [
    [
      'sideload',
      'open-target-package recovery sideload-mode sideload start auto-update-off',
      '28.5 to 97.5 min, 28.5 without root, 1 restarts, 0 offers, 1 trips, 1 downloads, 1 writes, 1 wipes',
      'warranty fuse | data',
    ],
    [
      'whole-build-then-root',
      'open-installed-package take-stock open-target-package take-whole bootloader write-build recovery factory-reset start auto-update-off',
      '39 to 170 min, 39 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 1 wipes',
      'warranty fuse | data',
    ],
    [
      'whole-build-repair',
      'open-installed-package take-stock open-target-package take-whole bootloader write-build recovery factory-reset start auto-update-off',
      '39 to 170 min, 39 without root, 1 restarts, 0 offers, 1 trips, 2 downloads, 1 writes, 1 wipes',
      'warranty fuse | data',
    ],
  ],
  'root without unlocking': [
    [
      'in-system-root',
      'open-root prove-root',
      '2.5 to 11 min, 0 without root, 0 restarts, 0 offers, 0 trips, 0 downloads, 0 writes, 0 wipes',
      'data,warranty fuse | ',
    ],
  ],
  'a build nobody has': [],
};

const figuresOf = ({ figures: of }: LanePlan) =>
  `${of.minutes[0]} to ${of.minutes[1]} min, ${of.minutesWithoutRoot} without root, ${of.restarts} restarts, ${of.offers} offers, ` +
  `${of.fileTrips} trips, ${of.downloads} downloads, ${of.writes} writes, ${of.wipes} wipes`;
const told = (plan: LanePlan) =>
  [
    plan.lane.id,
    plan.steps.map(({ action }) => action).join(' '),
    figuresOf(plan),
    `${plan.survives.join()} | ${plan.lost.join()}`,
  ] as const;

describe('the plans of each situation', () => {
  it.each(Object.keys(PLANS) as (keyof typeof WORLDS)[])('%s', (name) =>
    expect(planRound(WORLDS[name]).plans.map(told)).toEqual(PLANS[name]),
  );
});

/** What a plan costs by its figures, each times its weight, and by what its steps risk and keep waiting. */
function costOf({ steps, figures }: LanePlan, { start }: PlanContext, weights: Weights): number {
  let before = start.mode;
  let rest = 0;
  for (const { action, who, minutes, after } of steps) {
    rest +=
      ACTIONS[action].risk +
      (who === 'computer' && before !== 'system' && before !== 'off' ? minutes[0] * 0.3 : 0);
    before = after.mode;
  }
  return (
    figures.minutes[0] +
    rest +
    figures.wipes * weights.wipe +
    (figures.minutesWithoutRoot + figures.minutesOffDisk / 2) * weights.minuteWithoutRoot +
    figures.restarts * weights.restart +
    figures.offers * weights.offer +
    figures.fileTrips * weights.fileTrip +
    figures.downloads * weights.download +
    figures.writes * weights.write
  );
}

describe('the score', () => {
  const heavy: Weights = {
    wipe: 700,
    minuteWithoutRoot: 3,
    restart: 11,
    offer: 13,
    fileTrip: 17,
    download: 19,
    write: 23,
  };
  it.each(Object.entries(WORLDS))('of %s is what its figures weigh', (_name, context: PlanContext) => {
    for (const weights of [PLAIN_WEIGHTS, heavy])
      for (const plan of planRound({ ...context, weights }).plans)
        expect(plan.score, plan.lane.id).toBeCloseTo(costOf(plan, context, weights), 6);
  });
  it('orders the plans', () => {
    for (const context of Object.values(WORLDS) as PlanContext[]) {
      const scores = planRound(context).plans.map(({ score }) => score);
      expect(scores).toEqual([...scores].sort((a, b) => a - b));
    }
  });
});

describe('figures', () => {
  it('count wipes of this plan only', () => {
    const before = world({
      locked: true,
      state: { data: { ...world().start.data, wipes: 2 } },
      context: { limits: WORLDS['first root, locked'].limits },
    });
    expect(planRound(before).plans[0]!.figures.wipes).toBe(1);
  });
  it('know what a wipe takes along', () => {
    const [plan] = planRound(
      world({
        locked: true,
        state: { modules: { on: true, ids: ['lantern'] } },
        context: { limits: WORLDS['first root, locked'].limits },
      }),
    ).plans;
    expect(plan!.lost).toEqual(['data', 'modules', 'warranty fuse']);
  });
  it('give the first start after a wipe more time', () => {
    const start = (name: keyof typeof WORLDS) =>
      planRound(WORLDS[name]).plans[0]!.steps.find(({ action }) => action === 'start')!.minutes;
    const [expected, slow] = ACTIONS.start.minutes;
    expect(start('first root')).toEqual([expected, slow]);
    expect(start('first root, locked')).toEqual([expected + 4, slow + 6]);
  });
  it('take the pace that was learnt', () => {
    const { plans } = planRound({ ...WORLDS['first root'], pace: { start: [7, 9] } });
    expect(plans[0]!.steps.find(({ action }) => action === 'start')!.minutes).toEqual([7, 9]);
  });
});

describe('why a lane is the pick', () => {
  const why = (name: keyof typeof WORLDS) => planRound(WORLDS[name]).why;
  it.each<[keyof typeof WORLDS, string]>([
    ['first root', 'It is the only way there: fewest writes.'],
    [
      'first root, boot, with a recovery at hand',
      'Compared with “One image, written once”: 1 min less without root, fewer restarts, it has a net.',
    ],
    [
      'monthly update',
      'Compared with “Whole build from the computer, patched before its first start”: 9 min less without root, 13 min shorter, fewer downloads.',
    ],
    [
      'monthly update, its update waits',
      'Compared with “Patch the slot that waits, from the bootloader”: 2 min less without root, 12 min shorter, fewer downloads.',
    ],
    [
      'return to stock with a recovery',
      'Compared with “The same or a newer whole build, without wiping”: 6 min less without root, 7 min shorter.',
    ],
    ['downgrade', 'Compared with “The same or a newer whole build, without wiping”: less by your weights.'],
    [
      'downgrade by a known edge',
      'Compared with “Whole build without wiping, then root again”: 11 min less without root, 11 min shorter, fewer downloads.',
    ],
    ['a build nobody has', 'No lane leads there from here; each says why.'],
  ])('%s', (name, words) => expect(why(name)).toBe(words));
  it('says that fewer wipes and fewer offers count', () => {
    const wipes = planRound(
      world({
        rooted: true,
        context: { goal: 'monthly update', target: OCTOBER, weights: { ...PLAIN_WEIGHTS, offer: 40 } },
      }),
    );
    expect(wipes.plans[0]!.figures.offers).toBe(0);
    expect(wipes.pick).toBe('whole-build-patched');
  });
});

describe('limits', () => {
  const given = (limits: Partial<PlanContext['limits']>, slotCount: 1 | 2 = 2) =>
    world({
      profile: { slotCount },
      context: { limits: { computer: true, wipeAllowed: false, keepFuse: false, ...limits } },
    });
  it.each([
    ['oneSlot', 2, 'take-update', true],
    ['oneSlot', 2, 'patch-other-slot', true],
    ['oneSlot', 2, 'other-slot', true],
    ['oneSlot', 2, 'sideload', true],
    ['oneSlot', 2, 'write-build-both', true],
    ['oneSlot', 2, 'write-root', false],
    ['oneSlot', 2, 'write-build', false],
    ['oneSlot', 1, 'take-update', false],
    ['secondHandset', 2, 'take-whole', false],
    ['secondHandset', 2, 'write-set', false],
    ['secondHandset', 2, 'sideload', false],
    ['secondHandset', 2, 'take-update', false],
    ['secondHandset', 1, 'write-build', false],
  ] as const)('%s on %i slots rules out %s: %s', (limit, slots, action, out) => {
    expect(forbidden(given({ [limit]: true }, slots), action) !== null).toBe(out);
    expect(forbidden(given({}, slots), action)).toBeNull();
  });
  it('a second handset carries each image over by hand first', () => {
    expect(extraTrips(given({ secondHandset: true }), true)).toBe(1);
    expect(extraTrips(given({ secondHandset: true }), false)).toBe(0);
    expect(extraTrips(given({}), true)).toBe(0);
  });
});

describe('pace', () => {
  it('is the stated one where nothing was timed', () => expect(learnPace([2, 6], [])).toEqual([2, 6]));
  it('weighs the stated one as three of one’s own', () => {
    const [mean, late] = learnPace([2, 6], [240]);
    expect(mean).toBeCloseTo((2 * 3 + 4) / 4, 9);
    expect(late).toBeCloseTo((6 * 3 + 4) / 4, 9);
  });
  it('takes for slow what nine of ten were quicker than', () => {
    const minutes = [1, 2, 3, 4, 5, 6, 7, 8, 9, 40];
    const [mean, late] = learnPace(
      [5, 10],
      minutes.map((one) => one * 60),
    );
    expect(mean).toBeCloseTo((15 + 85) / 13, 9);
    expect(late).toBeCloseTo((30 + 40 * 10) / 13, 9);
    expect(
      learnPace(
        [5, 10],
        [...minutes.slice(0, 9), 9].map((one) => one * 60),
      )[1],
    ).toBeCloseTo((30 + 9 * 10) / 13, 9);
  });
  it('is never slower than expected the wrong way round, and leaves out what ran backwards', () => {
    expect(learnPace([10, 10], [60])[1]).toBeGreaterThanOrEqual(learnPace([10, 10], [60])[0]);
    expect(learnPace([2, 6], [-5])).toEqual([2, 6]);
    expect(learnPace([2, 6], [0])[0]).toBeCloseTo(1.5, 9);
  });
});

describe('what a kept image saves', () => {
  it('is every step that would make it', () => {
    const [plan] = planRound({ ...WORLDS['first root'], kept: [`patched ${SEPTEMBER}`] }).plans;
    expect(plan!.steps.map(({ action }) => action)).toEqual([
      'bootloader',
      'write-root',
      'start',
      'prove-root',
      'finish-root-app',
    ]);
  });
});
