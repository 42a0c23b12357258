import type { WayValues } from '../ways/way-kinds';

/*
 * The handset as a state machine (docs/method.md, "The handset"). Plain data: what is done to it, and what
 * comes of it, are functions.
 */

export type Slot = 'a' | 'b';
export const SLOTS: readonly Slot[] = ['a', 'b'];
export const otherSlot = (slot: Slot): Slot => (slot === 'a' ? 'b' : 'a');

/** `looping`: it starts, fails and starts again until somebody holds keys. `dead`: no screen, no way in. */
export type Mode =
  | 'off'
  | 'starting'
  | 'system'
  | 'bootloader'
  | 'userspace'
  | 'download'
  | 'recovery'
  | 'sideload'
  | 'looping'
  | 'dead';

export interface SlotState {
  readonly bootable: boolean;
  /** A start of this slot has succeeded since it was last selected: no way out any more if it fails later. */
  readonly proven: boolean;
  readonly triesLeft: number;
  /**
   * No system lies there any more: an update has merged over it, or the data that held a part of it was
   * erased. Only another whole build makes it one again.
   */
  readonly gone?: boolean;
}

/** What looking inside an image tells the handset. */
export interface ImageFacts {
  readonly sha256: string;
  readonly sizeBytes: number;
  /** Null when it can be read; else what is wrong with it. */
  readonly broken: string | null;
  /** The build it says it belongs to. */
  readonly fingerprint: string | null;
  readonly patchedBy: { readonly kit: string; readonly stockSha256: string } | null;
  /** Its kernel was changed so that an ordinary start takes boot's ramdisk, on handsets whose system is root. */
  readonly choosesRamdisk?: boolean;
  /** Whether its verified-boot digest still speaks for it; null without one. */
  readonly digestValid: boolean | null;
  /** Flags of verified-boot data; none where it has none. They count only unlocked. */
  readonly flags?: number;
  /** A recovery that is not the maker's: its name, and the newest platform level whose storage it opens. */
  readonly recovery?: { readonly name: string; readonly opensUpTo: number } | null;
}

export interface Running {
  readonly slot: Slot;
  readonly build: string;
  /** Root now running; root on disk is a fact of the image. */
  readonly rooted: boolean;
}

export type RootRequest = 'none' | 'asked' | 'granted' | 'denied';
export type UnlockSwitch = 'on' | 'off' | 'greyed' | 'absent';
/** `waiting`: an update was taken and not started; `merging`: it was started, and the old slot goes. */
export type Snapshot = 'none' | 'waiting' | 'merging';

export interface DataState {
  readonly encrypted: boolean;
  /** Patch level that its keys were last opened under; null for fresh data. */
  readonly keyLevel: string | null;
  /** The newest build that has opened it; null for fresh data. */
  readonly committedBy: string | null;
  /** How often it was erased so far. */
  readonly wipes: number;
}

export interface ModulesState {
  /** The kit loads them at all. */
  readonly on: boolean;
  readonly ids: readonly string[];
  /** Those of them that are switched off by themselves; none where it is missing. */
  readonly off?: readonly string[];
  /** Those that no build starts with; none where it is missing. */
  readonly breaks?: readonly string[];
  /** By id, as their files say; of the others it is not told. */
  readonly versions?: Readonly<Record<string, string>>;
}

export const modulesLoaded = ({ on, ids, off = [] }: ModulesState) =>
  on ? ids.filter((id) => !off.includes(id)) : [];

/** The root app as it stands there. */
export interface InstalledRootApp {
  readonly versionCode: number;
  readonly channel: 'stable' | 'preview' | 'unofficial';
  readonly hidden: boolean;
  /** It takes no update of itself. */
  readonly pinned: boolean;
}

export interface Settings {
  readonly debugging: boolean;
  readonly autoUpdate: boolean;
}

export interface HandsetState {
  readonly version: 2;
  readonly mode: Mode;
  readonly locked: boolean;
  readonly active: Slot;
  readonly slots: Readonly<Record<Slot, SlotState>>;
  /** The active slot was written since its system was last seen to start: nothing proves that it does. */
  readonly writtenSinceStart?: boolean;
  /** The system was kept from putting the maker's recovery back: its own recovery was entered once. */
  readonly keepsRecovery?: boolean;
  /** Its own recovery, which runs, was not let change the system: it only reads. */
  readonly recoveryReads?: boolean;
  /** Fingerprint of the system build on each slot. */
  readonly builds: Readonly<Record<Slot, string>>;
  /** Images by partition with its slot, such as `init_boot_a`. On a handset with one slot it is slot a. */
  readonly images: Readonly<Record<string, ImageFacts>>;
  readonly running: Running | null;
  /** Root was let in from inside: it lies in the data, and nothing on its partitions is changed. */
  readonly insideRoot?: 'until restart' | 'lasting';
  /** A recovery that was started from memory and runs; the disk is as it was. */
  readonly fromMemory: ImageFacts | null;
  /** Why the last start ended as it did, in words. */
  readonly lastStart: string | null;
  readonly rootRequest: RootRequest;
  readonly batteryPercent: number;
  readonly cable: boolean;
  /** The cable that is in carries no data, however often it is plugged in. */
  readonly deadCable?: true;
  /** Its root app answers every request with no, and asks nobody. */
  readonly appDenies?: true;
  /** Its merge does not go on until it was started once more. */
  readonly mergeStuck?: true;
  /** Failed starts in a row while looping. */
  readonly loops: number;
  readonly unlockSwitch: UnlockSwitch;
  /** An update that was taken and not started. */
  readonly update: { readonly slot: Slot; readonly build: string } | null;
  readonly snapshot: Snapshot;
  /**
   * (a) the bootloader's level and its fuse; (b) the stored rollback index. The maker's floor (c) is in the
   * profile.
   */
  readonly floors: { readonly bootloader: number; readonly fuse: number; readonly index: number };
  /** The tamper record as it is. */
  readonly record: { readonly fuseBlown: boolean; readonly writes: number };
  readonly data: DataState;
  /** `unfinished`: it asks for one more restart. */
  readonly rootApp: 'absent' | 'unfinished' | 'ready';
  /** Which one it is; absent where nothing says it. */
  readonly rootAppIs?: InstalledRootApp;
  /** Add-ons that root loads; they live on the data partition. */
  readonly modules: ModulesState;
  readonly settings: Settings;
}

/** What of a state a handset has that nothing special ever happened to. */
export const PLAIN_STATE = {
  version: 2,
  running: null,
  fromMemory: null,
  lastStart: null,
  rootRequest: 'none',
  batteryPercent: 80,
  cable: true,
  loops: 0,
  unlockSwitch: 'on',
  update: null,
  snapshot: 'none',
  floors: { bootloader: 0, fuse: 0, index: 0 },
  record: { fuseBlown: false, writes: 0 },
  data: { encrypted: true, keyLevel: null, committedBy: null, wipes: 0 },
  rootApp: 'absent',
  modules: { on: true, ids: [] },
  settings: { debugging: true, autoUpdate: false },
} as const satisfies Partial<HandsetState>;

/** What the machine has to know of a build. */
export interface BuildFacts {
  readonly patchLevel: string;
  /** When it was made, in seconds; what its own name says where it is not told. */
  readonly timestamp?: number;
  readonly sdk: number;
  /** Its images' rollback index, and the level its bootloader brings. */
  readonly index: number;
  readonly bootloader: number;
}

/** A way down that a recovery lets in. */
export interface SideloadEdge {
  readonly from: string;
  readonly to: string;
  /** Highest bootloader level with which it is let in; none where any will do. */
  readonly bootloader?: number;
}

/** What does not change about a handset. Sizes in bytes. */
export interface HandsetProfile {
  readonly id: string;
  readonly product: string;
  readonly model: string;
  readonly serial: string;
  readonly bootloader: string;
  readonly baseband: string;
  readonly firstApiLevel: number;
  readonly sdk: number;
  readonly release: string;
  readonly maxDownloadBytes: number;
  /**
   * The partition whose ramdisk carries root. `recovery`: root runs only after a start with the keys of the
   * recovery. `none`: nowhere.
   */
  readonly rootPartition: string;
  readonly partitionBytes: Readonly<Record<string, number>>;
  /** A generic ramdisk of another build loops on it. */
  readonly strictRamdisk: boolean;
  readonly triesPerSlot: number;
  readonly slotCount: 1 | 2;
  readonly unlockPath: 'command' | 'mailed code' | 'key chord' | 'none';
  /**
   * With the path by mail: the code that opens it. Nobody who plans may read this; null where any will do.
   */
  readonly unlockCode: string | null;
  /** Logical partitions: written from user-space flashing only. */
  readonly logical: readonly string[];
  /** Modes beyond system, bootloader and recovery. */
  readonly hasUserspace: boolean;
  readonly hasDownload: boolean;
  readonly recoveryHome: 'recovery' | 'boot' | 'vendor_boot';
  /** False where its bootloader writes nothing, and download mode is the only way from outside. */
  readonly bootloaderWrites: boolean;
  /** Its bootloader starts an image from memory. */
  readonly startsOnce: boolean;
  /** Its system puts the stock recovery back at every start. */
  readonly restoresRecovery: boolean;
  /** Its own recovery asks, each time it is gone into, what it may do; else it does all of it. */
  readonly recoveryAsks: boolean;
  /** A changed image starts only under verified-boot data whose flags allow it. */
  readonly needsVbmetaFlags: boolean;
  /** Boot's ramdisk is the recovery's: an ordinary start skips it, unless the kernel was changed. */
  readonly systemAsRoot: boolean;
  /** After so many failed starts in a row its kit rests all modules; null where none says so. */
  readonly restsModulesAfter: number | null;
  /** Its keys do not open under an older patch level than the newest that opened them. */
  readonly bindsKeys: boolean;
  /** Updates go into snapshots that are merged after their first start. */
  readonly mergesUpdates: boolean;
  readonly builds: Readonly<Record<string, BuildFacts>>;
  /** Builds on which the running system can be made to give root, for as long as it runs. */
  readonly openBuilds: readonly string[];
  /**
   * Builds whose bootloader writes and starts images that are not the maker's; where none is named, every one
   * does.
   */
  readonly looseBuilds: readonly string[];
  /** Older builds that its recovery lets in by sideload, by the build it is at. */
  readonly sideloadsDown: readonly SideloadEdge[];
  /** (c) The oldest patch level that the maker's tools still write. */
  readonly makerFloor: string | null;
  /** Modules that loop, by build. Nobody who plans may read this. */
  readonly badModules: readonly { readonly id: string; readonly build: string }[];
  /** Modules that are on again after a restart, whatever was said to them. Nobody who plans may read this. */
  readonly stubbornModules: readonly string[];
  /** Its keys, menu lines and questions, where they are not those of every stand-in. */
  readonly ownWays: WayValues;
}

/** What of a profile a common handset has: two slots, its own recovery partition, nothing unusual. */
export const PLAIN_PROFILE = {
  strictRamdisk: true,
  triesPerSlot: 3,
  slotCount: 2,
  unlockPath: 'command',
  unlockCode: null,
  logical: [],
  hasUserspace: true,
  hasDownload: false,
  recoveryHome: 'vendor_boot',
  bootloaderWrites: true,
  startsOnce: false,
  restoresRecovery: false,
  recoveryAsks: false,
  needsVbmetaFlags: false,
  systemAsRoot: false,
  restsModulesAfter: null,
  bindsKeys: true,
  mergesUpdates: true,
  builds: {},
  openBuilds: [],
  looseBuilds: [],
  sideloadsDown: [],
  makerFloor: null,
  badModules: [],
  stubbornModules: [],
  ownWays: {},
} as const satisfies Partial<HandsetProfile>;

/** A patch level newer than any build's: keys of data that nothing here opens. */
export const UNOPENED = '9999-12-31';
