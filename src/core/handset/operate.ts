import { start } from './start';
import type { HandsetProfile, HandsetState, ImageFacts, Mode, Slot } from './state';

/** What can be done to a handset in this slice; who does it (keys, link, screen) is the caller's business. */
export type HandsetOperation =
  | { readonly do: 'power-on' }
  | { readonly do: 'power-off' }
  | { readonly do: 'enter-bootloader' }
  | { readonly do: 'restart' }
  /** The start that `power-on` or `restart` began is over. */
  | { readonly do: 'finish-start' }
  | { readonly do: 'write'; readonly partition: string; readonly image: ImageFacts }
  | { readonly do: 'set-active'; readonly slot: Slot }
  | { readonly do: 'ask-root' }
  | { readonly do: 'answer-root'; readonly allow: boolean }
  | { readonly do: 'cable'; readonly connected: boolean };

export type Operated = { readonly ok: true; readonly state: HandsetState } | { readonly ok: false; readonly reason: string };

const done = (state: HandsetState): Operated => ({ ok: true, state });
const refused = (reason: string): Operated => ({ ok: false, reason });
const notRunning = { running: null, rootRequest: 'none' } as const;

function needMode(state: HandsetState, modes: readonly Mode[], work: () => Operated): Operated {
  return modes.includes(state.mode)
    ? work()
    : refused(`the handset is ${state.mode === 'off' ? 'off' : `in mode ${state.mode}`}, and this needs ${modes.join(' or ')}`);
}

/** One operation on one state: the state after it, or why it can't be done. Pure. */
export function operate(profile: HandsetProfile, state: HandsetState, operation: HandsetOperation): Operated {
  switch (operation.do) {
    case 'power-on':
      return needMode(state, ['off'], () => done({ ...state, ...notRunning, mode: 'starting', loops: 0 }));
    case 'power-off':
      return needMode(state, ['system', 'bootloader', 'looping', 'starting'], () => done({ ...state, ...notRunning, mode: 'off', loops: 0 }));
    case 'enter-bootloader':
      return needMode(state, ['off', 'system', 'looping', 'bootloader'], () => done({ ...state, ...notRunning, mode: 'bootloader', loops: 0 }));
    case 'restart':
      return needMode(state, ['system', 'bootloader'], () => done({ ...state, ...notRunning, mode: 'starting', loops: 0 }));
    case 'finish-start':
      return needMode(state, ['starting', 'looping'], () => done(start(profile, state).state));
    case 'write':
      return write(profile, state, operation.partition, operation.image);
    case 'set-active':
      return needMode(state, ['bootloader'], () =>
        state.locked
          ? refused('the bootloader is locked')
          : done({
              ...state,
              active: operation.slot,
              slots: { ...state.slots, [operation.slot]: { bootable: true, proven: false, triesLeft: profile.triesPerSlot } },
            }),
      );
    case 'ask-root':
      return needMode(state, ['system'], () =>
        state.running?.rooted ? done({ ...state, rootRequest: 'asked' }) : done({ ...state, rootRequest: 'denied' }),
      );
    case 'answer-root':
      return state.rootRequest === 'asked'
        ? done({ ...state, rootRequest: operation.allow ? 'granted' : 'denied' })
        : refused('nobody asks for root');
    case 'cable':
      return done({ ...state, cable: operation.connected });
  }
}

function write(profile: HandsetProfile, state: HandsetState, partition: string, image: ImageFacts): Operated {
  return needMode(state, ['bootloader', 'system'], () => {
    if (state.mode === 'bootloader' && state.locked) return refused('the bootloader is locked');
    if (state.mode === 'system' && state.rootRequest !== 'granted') return refused('root was not granted');
    const room = profile.partitionBytes[partition.replace(/_[ab]$/, '')];
    if (room === undefined || !(partition in state.images)) return refused(`there is no partition ${partition}`);
    if (image.sizeBytes > room) return refused(`${partition} holds ${room} bytes, the image has ${image.sizeBytes}`);
    // a write says nothing about the slot: proven stays proven, so a bad image written later has no way out
    return done({ ...state, images: { ...state.images, [partition]: image } });
  });
}
