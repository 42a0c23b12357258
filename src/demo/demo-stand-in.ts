import { join } from 'node:path';
import type { HandsetProfile, HandsetState, Slot } from '@/core/handset/state';
import { PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import { StandInStore } from '@/stand-in/stand-in-store';
import { BOOT_BYTES, INIT_BOOT_BYTES, RAMDISK_BOOT_BYTES, SMALL_BYTES } from './demo-images';
import type { DemoBuild, DemoHandset } from './world';
import { fingerprintOf, HANDSETS, levelOf } from './world';

/* The handsets of the demo as stand-ins: each with its own partitions, locks and habits. */

const WHOLE = { system: SMALL_BYTES, bootloader: SMALL_BYTES, radio: SMALL_BYTES } as const;
const TWO_SLOTS: Partial<HandsetProfile> = {
  logical: ['system'],
  partitionBytes: { init_boot: INIT_BOOT_BYTES, boot: BOOT_BYTES, ...WHOLE },
};

/** What is special about each, by profile. */
const SPECIAL: Readonly<Record<string, Partial<HandsetProfile>>> = {
  'north-gate': TWO_SLOTS,
  ridge: { logical: ['system'], startsOnce: true, partitionBytes: { boot: RAMDISK_BOOT_BYTES, ...WHOLE } },
  barn: {
    slotCount: 1,
    hasUserspace: false,
    hasDownload: true,
    recoveryHome: 'recovery',
    restoresRecovery: true,
    mergesUpdates: false,
    unlockPath: 'key chord',
    partitionBytes: { boot: RAMDISK_BOOT_BYTES, recovery: RAMDISK_BOOT_BYTES, ...WHOLE },
  },
  // one slot with a recovery of its own, unlocked by command; its keys are not those of most
  weir: {
    slotCount: 1,
    hasUserspace: false,
    recoveryHome: 'recovery',
    recoveryAsks: true,
    mergesUpdates: false,
    partitionBytes: { boot: RAMDISK_BOOT_BYTES, recovery: RAMDISK_BOOT_BYTES, ...WHOLE },
    ownWays: {
      'keys-bootloader': { keys: ['power', 'up'], seconds: 2 },
      'keys-recovery': { keys: ['power', 'down'], seconds: 2 },
      'keys-loop': { keys: ['power', 'up'], seconds: 4 },
      'line-recovery': 'Rescue menu',
      'line-unlock': 'Open the lock, erase all',
    },
  },
  // locked for good, and a build of it is open from inside
  hut: { ...TWO_SLOTS, unlockPath: 'none' },
  spare: { ...TWO_SLOTS, unlockPath: 'mailed code', unlockCode: 'TARN-5518-KESTREL' },
};

export function profileOf(handset: DemoHandset): HandsetProfile {
  return {
    ...PLAIN_PROFILE,
    id: handset.profile,
    product: handset.installed.device,
    model: handset.model,
    serial: handset.serial,
    bootloader: handset.bootloader,
    baseband: handset.baseband,
    firstApiLevel: handset.firstApiLevel,
    sdk: handset.sdk,
    release: handset.installed.release,
    maxDownloadBytes: 256 * 1024 * 1024,
    // what the kit of the demo does
    restsModulesAfter: 3,
    rootPartition: handset.rootPartition,
    partitionBytes: {},
    builds: Object.fromEntries(
      handset.builds.map((build) => [
        fingerprintOf(build, handset.brand),
        {
          patchLevel: build.patchLevel,
          sdk: handset.sdk,
          index: Math.floor(build.publishedAt / 1000),
          bootloader: levelOf(handset, build),
        },
      ]),
    ),
    ...SPECIAL[handset.profile],
  };
}

export type BuildImages = ReadonlyMap<string, Uint8Array>;

export interface StandInWish {
  readonly handset: DemoHandset;
  /** Build on each slot; the same twice on a handset with one. */
  readonly builds: Readonly<Record<Slot, DemoBuild>>;
  readonly active: Slot;
  /** Stock images of each build. */
  readonly imagesOf: (build: DemoBuild) => Promise<BuildImages>;
  /** What lies on a slot instead of the stock image, such as `boot_b`. */
  readonly instead: BuildImages;
  readonly rooted: boolean;
  /** The update that its maker has out. */
  readonly offer: DemoBuild | null;
  readonly state?: Partial<HandsetState>;
  readonly badModules?: HandsetProfile['badModules'];
  /** What is otherwise than on every handset of its kind. */
  readonly profile?: Partial<HandsetProfile>;
}

/** Makes a stand-in's folder: profile, state, and every partition of every slot. */
export async function makeStandIn(dataDir: string, wish: StandInWish): Promise<void> {
  const { handset, builds, active, instead, imagesOf, offer, rooted } = wish;
  const profile = { ...profileOf(handset), badModules: wish.badModules ?? [], ...wish.profile };
  const images = new Map<string, Uint8Array>();
  for (const slot of profile.slotCount === 1 ? (['a'] as const) : (['a', 'b'] as const))
    for (const [partition, bytes] of await imagesOf(builds[slot]))
      if (partition in profile.partitionBytes)
        images.set(`${partition}_${slot}`, instead.get(`${partition}_${slot}`) ?? bytes);
  const proven = { bootable: true, proven: true, triesLeft: 3 };
  const named = { a: fingerprintOf(builds.a, handset.brand), b: fingerprintOf(builds.b, handset.brand) };
  const folder = join(dataDir, 'stand-in', handset.profile);
  await StandInStore.create(folder, profile, images, {
    ...PLAIN_STATE,
    mode: 'system',
    locked: !handset.unlocked,
    active,
    slots: { a: proven, b: proven },
    builds: named,
    running: { slot: active, build: named[active], rooted },
    lastStart: `started from slot ${active}`,
    batteryPercent: 78,
    floors: { bootloader: levelOf(handset, builds[active]), fuse: handset.fuse, index: 0 },
    rootApp: handset.root.some(([, state]) => state === 'proven') ? 'ready' : 'absent',
    unlockSwitch: handset.unlockSwitch,
    data: { ...PLAIN_STATE.data, committedBy: named[active], keyLevel: builds[active].patchLevel },
    ...wish.state,
  });
  if (offer)
    await new StandInStore(folder).writeOffer(
      { build: fingerprintOf(offer, handset.brand), whole: true },
      await imagesOf(offer),
    );
}

export const demoHandset = (profile: string) => HANDSETS.find((handset) => handset.profile === profile)!;
