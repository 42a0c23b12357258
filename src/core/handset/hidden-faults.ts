import type { HiddenFaultId } from '../words/hidden-faults';
import { newestAfter, onSlot } from './builds';
import type { HandsetProfile, HandsetState } from './state';
import { modulesLoaded, otherSlot } from './state';

/*
 * Faults that hide: a handset that seems well has one of them, and shows it at its next start or when it is next
 * asked (docs/method.md, "Rescue"). What lies in bytes is done to the bytes by whoever has them.
 */

/** What is done to the bytes of a partition. */
export interface Spoiled {
  /** With its slot. */
  readonly partition: string;
  /** `cut`: its second half was never written; `other build`: that of the update which is out; `other slot`: what lies there. */
  readonly how: 'rotted' | 'cut' | 'other build' | 'other slot';
}
export interface FaultPut {
  readonly state: HandsetState;
  readonly spoiled: Spoiled | null;
}

type Put = (profile: HandsetProfile, state: HandsetState) => FaultPut | string;

const changed = (state: HandsetState): FaultPut => ({ state, spoiled: null });

const PUT: Readonly<Record<HiddenFaultId, Put>> = {
  'bad-module': (_profile, state) => {
    const [first] = modulesLoaded(state.modules);
    return first === undefined || state.running?.rooted !== true
      ? 'it runs without root, or no module is on it'
      : changed({ ...state, modules: { ...state.modules, breaks: [first] } });
  },
  'rotted-image': ({ rootPartition }, state) => ({
    state,
    spoiled: { partition: onSlot(rootPartition, state.active), how: 'rotted' },
  }),
  'wrong-slot': ({ slotCount }, state) => {
    if (slotCount === 1) return 'it has one slot';
    const other = otherSlot(state.active);
    const there = { bootable: true, proven: true, triesLeft: 0, gone: true };
    return changed({ ...state, active: other, slots: { ...state.slots, [other]: there } });
  },
  'foreign-vendor-boot': (_profile, state) =>
    state.images[onSlot('vendor_boot', state.active)]
      ? { state, spoiled: { partition: onSlot('vendor_boot', state.active), how: 'other build' } }
      : 'it has no vendor_boot',
  'no-tries': ({ slotCount }, state) => {
    if (slotCount === 1) return 'it has one slot';
    const other = otherSlot(state.active);
    return changed({
      ...state,
      slots: {
        ...state.slots,
        [state.active]: { ...state.slots[state.active], proven: false, triesLeft: 0 },
        [other]: { ...state.slots[other], bootable: false },
      },
    });
  },
  'unopened-data': (profile, state) => {
    const build = newestAfter(profile, state.builds[state.active]);
    return build === null
      ? 'no newer build of it is known'
      : changed({
          ...state,
          data: {
            ...state.data,
            encrypted: true,
            committedBy: build,
            keyLevel: profile.builds[build]!.patchLevel,
          },
        });
  },
  'cut-write': (_profile, state) => {
    const partition = ['system', 'boot']
      .map((name) => onSlot(name, state.active))
      .find((name) => state.images[name]);
    return partition === undefined
      ? 'nothing of it can be cut'
      : { state, spoiled: { partition, how: 'cut' } };
  },
  'stuck-update': ({ slotCount }, state) =>
    slotCount === 1
      ? 'it has one slot, and its updates do not merge'
      : changed({ ...state, snapshot: 'merging', mergeStuck: true }),
  'dead-cable': (_profile, state) => changed({ ...state, cable: false, deadCable: true }),
  'debugging-off': (_profile, state) =>
    state.settings.debugging
      ? changed({ ...state, settings: { ...state.settings, debugging: false } })
      : 'its debugging is off already',
  'denying-app': (_profile, state) =>
    state.running?.rooted === true && state.rootApp === 'ready'
      ? changed({ ...state, appDenies: true, rootRequest: 'none' })
      : 'no root app answers on it',
  'stock-on-disk': ({ rootPartition, slotCount }, state) => {
    const [here, there] = [state.active, otherSlot(state.active)].map(
      (slot) => state.images[onSlot(rootPartition, slot)],
    );
    const isStock = there?.broken === null && there.patchedBy === null && (there.recovery ?? null) === null;
    if (here?.patchedBy === null || here === undefined) return 'its image carries no root';
    return slotCount === 1 || !isStock || state.builds.a !== state.builds.b
      ? 'no stock image of its build lies on another slot'
      : { state, spoiled: { partition: onSlot(rootPartition, state.active), how: 'other slot' } };
  },
};

/**
 * The handset with a fault put in, which it does not show yet.
 * @returns why it can't have this one, else what becomes of its state and of its bytes
 */
export const putFault = (profile: HandsetProfile, state: HandsetState, fault: HiddenFaultId) =>
  PUT[fault](profile, state);
