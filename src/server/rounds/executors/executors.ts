import 'server-only';
import type { RoundStep } from '@/core/rounds/round';
import { trustsNobody } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-kind';
import * as modes from './run-modes';
import * as modules from './run-modules';
import * as recovery from './run-recovery';
import * as updates from './run-updates';
import * as writes from './run-writes';
import type { Executor } from './running';

/**
 * How each step is done: by Eterno over the link, or by the person, who says what they saw. What is chosen on a handset's own menu is theirs:
 * nothing of it comes over the link.
 */
const EXECUTORS: Readonly<Record<StepKey, Executor | 'by hand'>> = {
  'read-facts': modes.readFacts,
  debugging: modes.debugging,
  'auto-update-off': modes.autoUpdateOff,
  'unlock-switch': modes.unlockSwitch,
  unlock: modes.unlock,
  lock: modes.lock,
  bootloader: modes.bootloader,
  recovery: modes.recovery,
  download: modes.download,
  'sideload-mode': modes.sideloadMode,
  start: modes.start,
  'finish-start': modes.start,
  'other-slot': modes.otherSlot,
  'write-root': writes.writeSingle,
  'write-stock': writes.writeSingle,
  'write-recovery': writes.writeSingle,
  'write-stock-recovery': writes.writeSingle,
  'write-build': writes.writeBuild,
  'write-build-both': writes.writeBuild,
  'write-build-patched': writes.writeBuild,
  'write-set': writes.writeSet,
  'write-set-patched': writes.writeSet,
  'write-set-wipe': writes.writeSet,
  'start-once': writes.startOnce,
  'root-zip': writes.rootZip,
  'older-bootloader': recovery.olderBootloader,
  'recovery-once': recovery.recoveryOnce,
  'back-up-image': recovery.backUpImage,
  'recovery-inside': recovery.recoveryInside,
  'zip-inside': recovery.zipInside,
  'patch-there': recovery.patchThere,
  'patch-target-there': recovery.patchThere,
  'stock-back': updates.stockBack,
  'make-lasting': updates.makeLasting,
  'take-update': updates.takeUpdate,
  'take-full-update': updates.takeUpdate,
  'patch-other-slot': updates.patchOtherSlot,
  merge: updates.merge,
  'cancel-update': updates.cancelUpdate,
  'modules-off': modules.modulesOff,
  'modules-on': modules.modulesOn,
  'open-root': updates.openRoot,
  'finish-root-app': updates.finishRootApp,
  'prove-root': updates.proveRoot,
  // its bytes come from the browser: `sideload.ts`
  sideload: 'by hand',
  'back-up': 'by hand',
  'guard-off': 'by hand',
  protect: 'by hand',
  check: 'by hand',
  'look-around': 'by hand',
  close: 'by hand',
  'open-installed-package': 'by hand',
  'open-target-package': 'by hand',
  'take-stock': 'by hand',
  'take-target-stock': 'by hand',
  patch: 'by hand',
  'patch-target': 'by hand',
  'take-whole': 'by hand',
  'ask-code': 'by hand',
  'erase-cache': 'by hand',
  'wipe-keep-storage': 'by hand',
  'factory-reset': 'by hand',
  'format-data': 'by hand',
};

/** What does a step over the link in its round; null where it is done by hand, or nothing of the handset comes over the link then. */
export function executorOf(steps: readonly RoundStep[], step: RoundStep): Executor | null {
  const executor = EXECUTORS[step.key];
  if (executor === 'by hand') return null;
  const { starts } = DEEDS[step.key];
  return step.planned.mode === 'system' && starts !== true && step.key !== 'debugging' && trustsNobody(steps, step) ? null : executor;
}

/** Whether a step is the person's, on whatever handset. */
export const isByHand = ({ key }: Pick<RoundStep, 'key'>) => EXECUTORS[key] === 'by hand';
