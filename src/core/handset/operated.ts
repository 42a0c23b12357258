import type { HandsetProfile, HandsetState, Mode, Slot, SlotState } from './state';
import { otherSlot } from './state';

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

type Slots = Readonly<Record<Slot, SlotState>>;
export const SPENT: SlotState = { bootable: false, proven: false, triesLeft: 0 };
/** A slot with its tries armed, whose system was not started yet. */
export const untried = ({ triesPerSlot }: Pick<HandsetProfile, 'triesPerSlot'>): SlotState => ({
  bootable: true,
  proven: false,
  triesLeft: triesPerSlot,
});
export const withoutSystem = (slots: Slots, slot: Slot): Slots => ({
  ...slots,
  [slot]: { ...slots[slot], gone: true },
});

/** A stock recovery settles an update before it erases: one that waits is called off, one that merges ends. */
export function settled(state: HandsetState): HandsetState {
  if (state.snapshot === 'none') return state;
  const quiet = { ...state, snapshot: 'none', update: null } as const;
  if (state.snapshot === 'merging')
    return { ...quiet, slots: withoutSystem(state.slots, otherSlot(state.active)) };
  const slot = state.update?.slot ?? state.active;
  return { ...quiet, active: otherSlot(slot), slots: { ...state.slots, [slot]: SPENT } };
}

/** A part of an update lies on data until it has merged: erased before that, its system is gone for good. */
function torn(state: HandsetState): HandsetState {
  if (state.snapshot === 'none') return state;
  const slot = state.snapshot === 'waiting' ? (state.update?.slot ?? state.active) : state.active;
  return { ...state, snapshot: 'none', update: null, slots: withoutSystem(state.slots, slot) };
}

/**
 * Everything on the data partition gone: settings, trust, modules, the root app, and what an update that waits
 * or merges had laid there. It always shows in `data.wipes`.
 */
export function wiped(before: HandsetState): HandsetState {
  const { insideRoot: _inside, rootAppIs: _app, appDenies: _denies, ...state } = torn(before);
  return {
    ...state,
    data: { ...state.data, keyLevel: null, committedBy: null, wipes: state.data.wipes + 1 },
    rootApp: 'absent',
    modules: { on: true, ids: [] },
    settings: { debugging: false, autoUpdate: true },
  };
}
