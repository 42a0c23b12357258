import type { RootAppChange } from './root-app';
import { changeRootApp, finishedRootApp } from './root-app';
import { cancelUpdate, setActive, takeUpdate, waitForMerge } from './operate-updates';
import type { TakenUpdate } from './operate-updates';
import type { WipeKind } from './operate-modes';
import {
  answerRecovery,
  enterDownload,
  enterRecovery,
  enterSideload,
  enterUserspace,
  imageData,
  lock,
  setUnlockSwitch,
  unlock,
  wipe,
} from './operate-modes';
import type { WholeBuild } from './operate-writes';
import {
  installZip,
  patchFromInside,
  sideload,
  startOnce,
  startRecoveryOnce,
  write,
  writeBuild,
  endSet,
  writeSet,
  writeSetPart,
} from './operate-writes';
import type { Operated } from './operated';
import { done, needMode, needRoot, notRunning, refused } from './operated';
import { start, startWithRecoveryKeys } from './start';
import type { HandsetProfile, HandsetState, ImageFacts, Settings, Slot } from './state';

/** What can be done to a handset; who does it (keys, link, screen, the person) is the caller's business. */
export type HandsetOperation =
  | { readonly do: 'power-on' }
  | { readonly do: 'power-off' }
  | { readonly do: 'enter-bootloader' }
  | { readonly do: 'enter-recovery' }
  | { readonly do: 'enter-userspace' }
  | { readonly do: 'enter-download' }
  | { readonly do: 'enter-sideload' }
  | { readonly do: 'restart' }
  /** The start that `power-on` or `restart` began is over. */
  | { readonly do: 'finish-start' }
  /** A start of the system with the keys of the recovery, to its end. */
  | { readonly do: 'start-with-recovery-keys' }
  | { readonly do: 'unlock-switch' }
  | { readonly do: 'unlock'; readonly code?: string }
  | { readonly do: 'lock' }
  | { readonly do: 'wipe'; readonly kind: WipeKind }
  | { readonly do: 'set'; readonly settings: Partial<Settings> }
  | { readonly do: 'write'; readonly partition: string; readonly image: ImageFacts }
  | { readonly do: 'write-build'; readonly whole: WholeBuild; readonly both: boolean; readonly wipe: boolean }
  | { readonly do: 'write-set'; readonly whole: WholeBuild; readonly keepData: boolean }
  /** The images of a set one by one, and its end. */
  | { readonly do: 'write-set-part'; readonly partition: string; readonly image: ImageFacts }
  | { readonly do: 'end-set'; readonly build: string | null; readonly keepData: boolean }
  | { readonly do: 'sideload'; readonly whole: WholeBuild }
  | { readonly do: 'install-zip'; readonly partition: string; readonly image: ImageFacts }
  | { readonly do: 'start-once'; readonly image: ImageFacts }
  | { readonly do: 'start-recovery-once'; readonly image: ImageFacts }
  /** An image of the whole data partition, taken by a recovery that opens it. */
  | { readonly do: 'image-data' }
  | {
      readonly do: 'patch-from-inside';
      readonly which: 'running slot' | 'other slot';
      readonly image: ImageFacts;
    }
  | { readonly do: 'take-update'; readonly update: TakenUpdate }
  | { readonly do: 'cancel-update' }
  | { readonly do: 'wait-for-merge' }
  | { readonly do: 'set-active'; readonly slot: Slot }
  /** All of them, or exactly these. */
  | { readonly do: 'modules'; readonly on: boolean; readonly only?: readonly string[] }
  | { readonly do: 'finish-root-app' }
  | { readonly do: 'root-app'; readonly change: RootAppChange }
  /** Root for as long as the system runs, on builds that are open to it. */
  | { readonly do: 'open-root' }
  /** What lets root in is taken off; what runs goes on with it until it restarts. */
  | { readonly do: 'undo-inside' }
  | { readonly do: 'ask-root' }
  | { readonly do: 'answer-root'; readonly allow: boolean }
  | { readonly do: 'answer-recovery'; readonly asks: 'changes' | 'keep mine'; readonly yes: boolean }
  | { readonly do: 'cable'; readonly connected: boolean };

/** One operation on one state: the state after it, or why it can't be done. Pure. */
export function operate(profile: HandsetProfile, state: HandsetState, operation: HandsetOperation): Operated {
  const into = (mode: HandsetState['mode']): Operated => done({ ...state, ...notRunning, mode, loops: 0 });
  switch (operation.do) {
    case 'power-on':
      return needMode(state, ['off'], () => into('starting'));
    case 'power-off':
      return needMode(
        state,
        ['system', 'bootloader', 'looping', 'starting', 'recovery', 'userspace', 'download', 'sideload'],
        () => into('off'),
      );
    case 'enter-bootloader':
      return needMode(state, ['off', 'system', 'looping', 'bootloader', 'recovery', 'userspace'], () =>
        into('bootloader'),
      );
    case 'enter-recovery':
      return enterRecovery(profile, state);
    case 'enter-userspace':
      return enterUserspace(profile, state);
    case 'enter-download':
      return enterDownload(profile, state);
    case 'enter-sideload':
      return enterSideload(profile, state);
    case 'restart':
      return needMode(state, ['system', 'bootloader', 'recovery', 'userspace', 'download', 'sideload'], () =>
        into('starting'),
      );
    case 'finish-start':
      return needMode(state, ['starting', 'looping'], () => done(start(profile, state).state));
    case 'start-with-recovery-keys':
      return needMode(state, ['off', 'system', 'bootloader', 'looping'], () =>
        profile.recoveryHome === 'recovery' && profile.rootPartition === 'recovery'
          ? done(startWithRecoveryKeys(profile, { ...state, ...notRunning, mode: 'starting', loops: 0 }))
          : refused('those keys lead into its recovery'),
      );
    case 'unlock-switch':
      return setUnlockSwitch(state);
    case 'unlock':
      return unlock(profile, state, operation.code ?? null);
    case 'lock':
      return lock(state);
    case 'wipe':
      return wipe(profile, state, operation.kind);
    case 'set':
      return needMode(state, ['system'], () =>
        done({ ...state, settings: { ...state.settings, ...operation.settings } }),
      );
    case 'write':
      return write(profile, state, operation.partition, operation.image);
    case 'write-build':
      return writeBuild(profile, state, operation.whole, operation);
    case 'write-set':
      return writeSet(profile, state, operation.whole, operation.keepData);
    case 'write-set-part':
      return writeSetPart(profile, state, operation.partition, operation.image);
    case 'end-set':
      return endSet(profile, state, operation.build, operation.keepData);
    case 'sideload':
      return sideload(profile, state, operation.whole);
    case 'install-zip':
      return installZip(profile, state, operation.partition, operation.image);
    case 'start-once':
      return startOnce(profile, state, operation.image);
    case 'start-recovery-once':
      return startRecoveryOnce(profile, state, operation.image);
    case 'image-data':
      return imageData(profile, state);
    case 'patch-from-inside':
      return patchFromInside(profile, state, operation.which, operation.image);
    case 'take-update':
      return takeUpdate(profile, state, operation.update);
    case 'cancel-update':
      return cancelUpdate(state);
    case 'wait-for-merge':
      return waitForMerge(state);
    case 'set-active':
      return setActive(profile, state, operation.slot);
    case 'modules':
      return needRoot(state, () => {
        const { ids } = state.modules;
        const { on, only = on ? ids : [] } = operation;
        const strange = only.find((id) => !ids.includes(id));
        return strange === undefined
          ? done({
              ...state,
              modules: { ...state.modules, on, ids, off: ids.filter((id) => !only.includes(id)) },
            })
          : refused(`there is no module ${strange}`);
      });
    case 'finish-root-app':
      return needMode(state, ['system'], () =>
        state.rootApp === 'unfinished' && state.running!.rooted
          ? done(finishedRootApp(profile, state))
          : refused('there is nothing to finish'),
      );
    case 'root-app':
      return needMode(state, ['system'], () => changeRootApp(state, operation.change));
    case 'open-root':
      return needMode(state, ['system'], () =>
        profile.openBuilds.includes(state.running!.build)
          ? done({
              ...state,
              running: { ...state.running!, rooted: true },
              rootRequest: 'none',
              rootApp: 'ready',
              insideRoot: profile.ownWays['inside-lasts'] ?? 'until restart',
            })
          : refused('this build is closed to it'),
      );
    case 'undo-inside':
      return needMode(state, ['system'], () => {
        const { insideRoot, rootAppIs: _app, ...rest } = state;
        return insideRoot === undefined
          ? refused('root was not let in from inside')
          : done({ ...rest, rootApp: 'absent' });
      });
    case 'ask-root':
      return needMode(state, ['system'], () =>
        done({
          ...state,
          rootRequest: state.running?.rooted && state.appDenies !== true ? 'asked' : 'denied',
        }),
      );
    case 'answer-root':
      return state.rootRequest === 'asked'
        ? done({ ...state, rootRequest: operation.allow ? 'granted' : 'denied' })
        : refused('nobody asks for root');
    case 'answer-recovery':
      return answerRecovery(profile, state, operation);
    case 'cable':
      return done({ ...state, cable: operation.connected && state.deadCable !== true });
  }
}
