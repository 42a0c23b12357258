import type { Judged } from '../packages/recovery-claim';
import type { WritePurpose } from '../words/write';

/* What is asked before a write: an image, a place, a purpose, and what the image was held against. */

/** The image, by its own bytes and by the verified package that holds the very same ones. */
export interface WrittenImage {
  /** Null where its bytes do not say it: a container of no known format. */
  readonly partition: string | null;
  /** Every fingerprint that its own bytes name. */
  readonly fingerprints: readonly string[];
  /** Of its header, `yyyy-mm` or longer; null where it has none. */
  readonly patchLevel: string | null;
  /** Unpacked. */
  readonly sizeBytes: number;
  /** The level that a bootloader's own data states; null where it states none. */
  readonly level: number | null;
  /** The package that holds exactly these bytes as this partition's image; null where none is known. */
  readonly package: PackageOfImage | null;
}

export interface PackageOfImage {
  readonly fingerprint: string | null;
  readonly devices: readonly string[];
  /** Versions of the bootloader that the package brings. */
  readonly bootloaders: readonly string[];
}

/** What is known of the handset, the slot and the partition; unknown is null. */
export interface WriteTarget {
  readonly partition: string;
  readonly slot: string | null;
  /** Whether this partition exists once a slot. */
  readonly slotted: boolean | null;
  /** Whether the slot is the running one; true on a handset with one. */
  readonly runningSlot: boolean | null;
  /** Fingerprint of the build on that slot. */
  readonly slotBuild: string | null;
  readonly slotPatchLevel: string | null;
  readonly device: string | null;
  /** Fingerprint of the build that runs: it names the variant. */
  readonly installed: string | null;
  readonly sdk: number | null;
  /** False only where the partitions were read and this is not one of them. */
  readonly exists: boolean | null;
  readonly partitionBytes: number | null;
  readonly logical: boolean | null;
  readonly mode: string | null;
  readonly unlocked: boolean | null;
  readonly battery: {
    readonly percent: number | null;
    /** As the handset itself says it. */
    readonly fit: boolean | null;
    readonly ageSeconds: number | null;
  };
  /** `none`, `waiting` (or `snapshotted`), `merging`. */
  readonly snapshot: string | null;
  readonly recoveryHome: string | null;
  readonly fuse: number | null;
  /** The bootloader that runs: its version and its level. */
  readonly bootloader: string | null;
  readonly bootloaderLevel: number | null;
}

/** What the image was held against, and what came out. */
export type WriteProof =
  | { readonly kind: 'nothing' }
  | {
      readonly kind: 'bytes';
      readonly same: boolean;
      readonly as: 'stock' | 'package';
      /** It holds the note of a patch, whatever it is equal to. */
      readonly patched: boolean;
    }
  /** Its own data holds, and nothing else was at hand. */
  | { readonly kind: 'own data'; readonly patched: boolean }
  | {
      readonly kind: 'patch';
      readonly held: number;
      readonly of: number;
      readonly failed: string | null;
      readonly stockBuild: string | null;
    }
  | {
      readonly kind: 'judged';
      readonly belongs: 'yes' | 'no' | "can't tell";
      readonly times: number;
      readonly unexpected: number;
      readonly against: string | null;
      readonly same: boolean;
      /** The build of the stock image that it was held against. */
      readonly stockBuild: string | null;
      /** Why the person trusts the maker of a ready-made image; null where they never said so. */
      readonly trust: string | null;
    }
  | {
      readonly kind: 'recovery';
      readonly is: Judged;
      readonly forHandset: Judged;
      /** The newest platform level whose storage it opens; null where it does not say. */
      readonly opensUpTo: number | null;
      /** Whether only the recovery in this build's stock image was replaced; null where that was not looked at. */
      readonly onlyFragment: boolean | null;
    };

export interface WriteQuestion {
  readonly purpose: WritePurpose;
  readonly image: WrittenImage;
  readonly target: WriteTarget;
  readonly proof: WriteProof;
}
