import 'server-only';
import type { StepKey } from '@/core/steps/step-kind';
import * as modes from './run-modes';
import * as modules from './run-modules';
import * as recovery from './run-recovery';
import * as updates from './run-updates';
import * as writes from './run-writes';
import type { Executor } from './running';

/** What Eterno does over the link, by step; what is missing is done here or by the person. */
export const EXECUTORS: Readonly<Partial<Record<StepKey, Executor>>> = {
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
  'erase-cache': recovery.eraseCache,
  'wipe-keep-storage': recovery.erase,
  'factory-reset': recovery.erase,
  'format-data': recovery.erase,
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
};
