import type { Fit } from '@/core/fit/fit-package';
import type { SetHistory } from '@/core/packages/set-manifest';
import type { predictRefusal, PristineState } from '@/core/fit/pristine';

export interface HandsetFit {
  readonly handsetId: string;
  readonly name: string;
  readonly fit: Fit;
  /** Whether region and build line stay; null where it is not known. */
  readonly history: SetHistory;
}

/** An old image that an incremental package starts from, and where it is. */
export interface PristineView {
  readonly partition: string;
  readonly sha256: string;
  readonly inVault: boolean;
}

/** A handset that runs the build an incremental package starts from: whether it would take it. */
export interface PristineHandset {
  readonly name: string;
  readonly slot: string;
  readonly states: readonly PristineState[];
  readonly prediction: ReturnType<typeof predictRefusal>;
}

/** What an open round still takes out of the package of a build. */
export interface WantedImages {
  readonly roundId: string;
  readonly handset: string;
  /** Its build number. */
  readonly build: string;
  /** Null where it is every image of the package, and the package was not opened yet. */
  readonly partitions: readonly string[] | null;
  /** The package of that build, where one was opened before. */
  readonly file: { readonly name: string; readonly sizeBytes: number } | null;
}

/** What the bench and the vault say to a package. */
export interface PackageJudgement {
  /** Who opened it; by hashes of a page's report no image is called stock. */
  readonly readBy: 'server' | 'page';
  readonly fits: readonly HandsetFit[];
  readonly pristine: readonly PristineView[];
  readonly starts: readonly PristineHandset[];
  /** The largest full package of the same handset that was ever opened here; bytes. */
  readonly fullBytes: number | null;
  /** What a round takes from it. */
  readonly wanted: WantedImages | null;
}

/** What the log knows of a file's hash. */
export interface FileMemory {
  /** When a file of this name was first hashed here; this time, if never before. */
  readonly firstSeenAt: number;
  /** The first hash, where this file has another one now. */
  readonly changedFrom: string | null;
}

/** A package that was opened before, in a line. */
export interface SeenPackage {
  readonly id: string;
  /** Its build, or its file where it states none. */
  readonly name: string;
  readonly fileName: string;
  readonly incremental: boolean;
  readonly product: string | null;
  readonly sizeBytes: number;
  readonly openedAt: number;
}
export interface SeenPackages {
  readonly newest: readonly SeenPackage[];
  /** So many more were opened before those. */
  readonly older: number;
}
