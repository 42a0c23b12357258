import type { SetRole } from './set-roles';

/* What a firmware set of several archives is found to be (docs/formats.md, "Tar sets"). */

export interface SetMember {
  readonly name: string;
  /** Null where it is no partition's image: a container of the maker's own, a partition table. */
  readonly partition: string | null;
  /** Unpacked where its frame says it, else as stored; bytes. */
  readonly size: number;
  readonly compression: string;
}

export interface SetPart {
  readonly file: string;
  readonly role: SetRole;
  /** By its name, else by what its images name; null where neither says one. */
  readonly build: string | null;
  readonly evidence: readonly string[];
  /** `stated` where a line is there and was not held against the part yet. */
  readonly checksum: 'ok' | 'bad' | 'none' | 'stated';
  readonly members: readonly SetMember[];
}

export interface DoubledMember {
  readonly partition: string;
  readonly files: readonly string[];
  /** Only region parts hold it, and one of them is chosen. */
  readonly harmless: boolean;
}

export interface RegionChoice {
  readonly file: string;
  readonly wipes: boolean;
  readonly advised: boolean;
  readonly why: string;
}

/** What is known of the handset's past: nothing, or whether region and build line stay the same. */
export type SetHistory = { readonly sameRegion: boolean; readonly sameLine: boolean } | null;

export interface SetManifest {
  readonly kind: 'firmware-set';
  readonly build: string | null;
  readonly parts: readonly SetPart[];
  readonly missing: readonly string[];
  readonly mixed: readonly { readonly file: string; readonly build: string }[];
  readonly doubled: readonly DoubledMember[];
  readonly choice: readonly RegionChoice[];
  readonly warnings: readonly string[];
}
