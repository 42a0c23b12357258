/* The handset as a state machine, this far: modes, slots, one partition that carries root (docs/method.md, "The handset"). Plain data. */

export type Slot = 'a' | 'b';
export const SLOTS: readonly Slot[] = ['a', 'b'];
export const otherSlot = (slot: Slot): Slot => (slot === 'a' ? 'b' : 'a');

/** `looping`: it starts, fails and starts again until somebody holds keys. */
export type Mode = 'off' | 'starting' | 'system' | 'bootloader' | 'looping';

export interface SlotState {
  readonly bootable: boolean;
  /** A start of this slot has succeeded since it was last selected: no way out any more if it fails later. */
  readonly proven: boolean;
  readonly triesLeft: number;
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
  /** Whether its verified-boot digest still speaks for it; null without one. */
  readonly digestValid: boolean | null;
}

export interface Running {
  readonly slot: Slot;
  readonly build: string;
  /** Root now running; root on disk is a fact of the image. */
  readonly rooted: boolean;
}

export type RootRequest = 'none' | 'asked' | 'granted' | 'denied';

export interface HandsetState {
  readonly version: 1;
  readonly mode: Mode;
  readonly locked: boolean;
  readonly active: Slot;
  readonly slots: Readonly<Record<Slot, SlotState>>;
  /** Fingerprint of the system build on each slot. */
  readonly builds: Readonly<Record<Slot, string>>;
  /** Images by partition with its slot, such as `init_boot_a`. */
  readonly images: Readonly<Record<string, ImageFacts>>;
  readonly running: Running | null;
  /** Why the last start ended as it did, in words. */
  readonly lastStart: string | null;
  readonly rootRequest: RootRequest;
  readonly batteryPercent: number;
  readonly cable: boolean;
  /** Failed starts in a row while looping. */
  readonly loops: number;
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
  /** The partition whose ramdisk carries root. */
  readonly rootPartition: string;
  readonly partitionBytes: Readonly<Record<string, number>>;
  /** A generic ramdisk of another build loops on it. */
  readonly strictRamdisk: boolean;
  readonly triesPerSlot: number;
}
