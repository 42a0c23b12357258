import { buildFacts, onSlot } from '../handset/builds';
import type { HandsetProfile, ImageFacts } from '../handset/state';
import { PLAIN_PROFILE, PLAIN_STATE } from '../handset/state';
import type { PlanContext } from '../planning/context';
import { PLAIN_WEIGHTS, stockImage } from '../planning/context';
import type { ClassId } from '../ways/classes';

/* What repairs are tried on: the handset as it would be if nothing were wrong, or one of its class. */

/** The same handset, its slot whole and its data open: faults are put into it one by one. */
export function healthy(context: PlanContext): PlanContext {
  const { profile, start } = context;
  const build = start.builds[start.active];
  const images: Record<string, ImageFacts> = {};
  for (const [name, image] of Object.entries(start.images))
    // of the other slot what is not known to be whole is not taken to be
    images[name] =
      image.broken === null || !name.endsWith(`_${start.active}`)
        ? image
        : { ...stockImage(name.slice(0, -2), build), broken: null };
  const slot = { bootable: true, proven: true, triesLeft: profile.triesPerSlot };
  const { patchLevel } = buildFacts(profile, build);
  return {
    ...context,
    start: {
      ...start,
      mode: 'system',
      images,
      snapshot: 'none',
      update: null,
      slots: { ...start.slots, [start.active]: slot },
      running: { slot: start.active, build, rooted: false },
      data: { ...start.data, keyLevel: patchLevel, committedBy: build },
    },
  };
}

const [OLDER, BUILD, NEWER] = ['1', '2', '3'].map((n) => `some/handset/some:1/B.${n}/${n}:user/keys`) as [
  string,
  string,
  string,
];
const level = (n: number) => ({ patchLevel: `2000-0${n}-01`, sdk: 34, index: n, bootloader: 1 });

const TWO: Partial<HandsetProfile> = { slotCount: 2 };
const ONE: Partial<HandsetProfile> = {
  slotCount: 1,
  recoveryHome: 'recovery',
  mergesUpdates: false,
  hasUserspace: false,
};
const OF_CLASS: Readonly<Record<ClassId, Partial<HandsetProfile>>> = {
  'two-slots-init-boot': { ...TWO, rootPartition: 'init_boot' },
  'two-slots-boot': { ...TWO, rootPartition: 'boot' },
  'one-slot-bootloader': { ...ONE, rootPartition: 'boot' },
  'one-slot-download': { ...ONE, rootPartition: 'boot', hasDownload: true, bootloaderWrites: false },
  'locked-for-good': { ...TWO, rootPartition: 'init_boot', unlockPath: 'none' },
};

/** A handset of which nothing is known but its class. */
export function someOf(handsetClass: ClassId): PlanContext {
  const profile: HandsetProfile = {
    ...PLAIN_PROFILE,
    id: handsetClass,
    product: 'handset',
    model: 'some handset',
    serial: '',
    bootloader: '',
    baseband: '',
    firstApiLevel: 34,
    sdk: 34,
    release: '1',
    maxDownloadBytes: 1,
    rootPartition: 'boot',
    partitionBytes: { boot: 1, init_boot: 1, vendor_boot: 1, recovery: 1, system: 1, bootloader: 1 },
    builds: { [OLDER]: level(1), [BUILD]: level(2), [NEWER]: level(3) },
    ...OF_CLASS[handsetClass],
  };
  const images: Record<string, ImageFacts> = {};
  for (const slot of profile.slotCount === 2 ? (['a', 'b'] as const) : (['a'] as const))
    for (const partition of Object.keys(profile.partitionBytes))
      images[onSlot(partition, slot)] = stockImage(partition, BUILD);
  const slot = { bootable: true, proven: true, triesLeft: 3 };
  return {
    profile,
    start: {
      ...PLAIN_STATE,
      mode: 'system',
      locked: handsetClass === 'locked-for-good',
      active: 'a',
      slots: { a: slot, b: slot },
      builds: { a: BUILD, b: BUILD },
      images,
      running: { slot: 'a', build: BUILD, rooted: false },
      data: { ...PLAIN_STATE.data, keyLevel: level(2).patchLevel, committedBy: BUILD },
      floors: { bootloader: 1, fuse: 1, index: 0 },
    },
    goal: 'repair',
    target: BUILD,
    kit: 'a kit',
    recovery: null,
    fullPackages: [BUILD],
    incrementalTo: [],
    kept: [],
    limits: { computer: true, wipeAllowed: true, keepFuse: false },
    weights: PLAIN_WEIGHTS,
    recoveryHomeRead: true,
    fuseKnown: true,
    pace: {},
  };
}
