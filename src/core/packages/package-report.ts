import type { ImageSink } from '../bytes/image-sink';
import type { Watch } from '../ports';

/** What a package is and holds. Unknown is null; sizes in bytes; hashes in lower-case hex. */
export interface PackageReport {
  readonly kind:
    | 'update-zip'
    | 'factory-zip'
    | 'image-zip'
    | 'flash-list'
    | 'tar-set'
    | 'block-update-zip'
    | 'bare-image'
    | 'recovery-zip'
    | 'module-zip'
    | 'kit'
    | 'unknown';
  readonly incremental: boolean;
  readonly build: PackageBuild;
  readonly images: readonly PackageImage[];
  /** What in the file says so, in words. */
  readonly evidence: readonly string[];
  readonly warnings: readonly string[];
}

export interface PackageBuild {
  readonly fingerprint: string | null;
  readonly buildId: string | null;
  readonly incrementalVersion: string | null;
  /** `yyyy-mm-dd` or `yyyy-mm`. */
  readonly patchLevel: string | null;
  readonly devices: readonly string[];
  readonly requiredBootloader: readonly string[];
  readonly requiredBaseband: readonly string[];
  /** Incremental packages: the build they start from. */
  readonly sourceFingerprint: string | null;
}

export interface PackageImage {
  readonly partition: string;
  readonly size: number;
  /** As the package states it. */
  readonly sha256: string | null;
  readonly needsSource: boolean;
  readonly slots: 'one' | 'both' | null;
}

export const UNKNOWN_BUILD: PackageBuild = {
  fingerprint: null,
  buildId: null,
  incrementalVersion: null,
  patchLevel: null,
  devices: [],
  requiredBootloader: [],
  requiredBaseband: [],
  sourceFingerprint: null,
};

/** A package whose index has been read; images are taken out of it one by one. */
export interface OpenedPackage {
  readonly report: PackageReport;
  /**
   * Writes one image, raw and unwrapped, and reads it back.
   * @throws {EternoError} `not-found` where the package has no such image, and all of the format's readers
   */
  take(partition: string, sink: ImageSink, watch?: Watch): Promise<TakenImage>;
}

export interface TakenImage {
  readonly size: number;
  readonly sha256: string;
  /** Compared with a hash that the package states. */
  readonly verified: boolean;
}
