import type { HandsetState, Mode } from './state';

/** What an operation comes to: the state after it, or why it can't be done. */
export type Operated =
  | { readonly ok: true; readonly state: HandsetState }
  | { readonly ok: false; readonly reason: string; readonly code?: RefusalCode };

/** What whoever asked can act on, apart from the words. */
export type RefusalCode = 'not-newer' | 'not-stock' | 'merging';

export const done = (state: HandsetState): Operated => ({ ok: true, state });
export const refused = (reason: string, code?: RefusalCode): Operated => ({
  ok: false,
  reason,
  ...(code === undefined ? {} : { code }),
});
export const notRunning = { running: null, rootRequest: 'none', fromMemory: null } as const;

const MODE_WORDS: Readonly<Record<Mode, string>> = {
  off: 'off',
  starting: 'starting',
  system: 'in its system',
  bootloader: 'in its bootloader',
  userspace: 'in user-space flashing',
  download: 'in download mode',
  recovery: 'in its recovery',
  sideload: 'waiting for a sideload',
  looping: 'looping',
  dead: 'dead',
};

export function needMode(state: HandsetState, modes: readonly Mode[], work: () => Operated): Operated {
  return modes.includes(state.mode)
    ? work()
    : refused(
        `the handset is ${MODE_WORDS[state.mode]}, and this needs it ${modes.map((mode) => MODE_WORDS[mode]).join(' or ')}`,
      );
}

/** Something that only root on the running system can do. */
export function needRoot(state: HandsetState, work: () => Operated): Operated {
  return needMode(state, ['system'], () =>
    state.rootRequest === 'granted' ? work() : refused('root was not granted'),
  );
}

/**
 * Everything on the data partition gone: settings, trust, modules, the root app. It always shows in
 * `data.wipes`.
 */
export function wiped(state: HandsetState): HandsetState {
  return {
    ...state,
    data: { ...state.data, keyLevel: null, committedBy: null, wipes: state.data.wipes + 1 },
    rootApp: 'absent',
    modules: { on: true, ids: [] },
    settings: { debugging: false, autoUpdate: true },
  };
}
