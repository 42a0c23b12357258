import type { ByteSource } from '../bytes/byte-source';
import type { ImageSink } from '../bytes/image-sink';
import type { Watch } from '../ports';
import type { ScriptTargets } from './script-targets';
import type { SetManifest } from './set-manifest';
import type { PackageKind } from './package-kinds';

/** What a package is and holds. Unknown is null; sizes in bytes; hashes in lower-case hex. */
export interface PackageReport {
  readonly kind: PackageKind;
  readonly incremental: boolean;
  readonly build: PackageBuild;
  readonly images: readonly PackageImage[];
  /** What in the file says so, in words. */
  readonly evidence: readonly string[];
  readonly warnings: readonly string[];
  /** Files that it names and that are not with it; absent where it names none. */
  readonly missing?: readonly MissingFile[];
  /** The parts of a firmware set of several archives; absent for every other package. */
  readonly set?: SetManifest;
  /** Partitions that an install script says it writes. */
  readonly writes: readonly string[];
  /** Of an install package: what goes where as its script says it, and why that is not all where it is not. */
  readonly script?: ScriptTargets;
  /** An install package that the server keeps whole, and the images in it. */
  readonly kept?: KeptInstall;
}

/** The package under its hash, and what goes where; sizes in bytes. */
export interface KeptInstall {
  readonly sha256: string;
  readonly images: readonly {
    readonly partition: string;
    readonly sha256: string;
    readonly sizeBytes: number;
  }[];
}

export interface MissingFile {
  readonly partition: string;
  readonly file: string;
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
  /** Of the raw image; null where only unpacking would tell. */
  readonly size: number | null;
  /** As the package states it. */
  readonly sha256: string | null;
  /** Of the file that holds it, as an archive states it: eight digits in hex; null where none does. */
  readonly crc32: string | null;
  readonly needsSource: boolean;
  /** The old image that an incremental package must find, untouched, in the partition. */
  readonly source: { readonly size: number | null; readonly sha256: string } | null;
  /** What of it can't be done here, by name; it can be taken out where this is empty. */
  readonly unsupported: readonly string[];
  readonly slots: 'one' | 'both' | null;
  /** The member that holds it, where the package is made of files. */
  readonly member: string | null;
}

/** What two sources say of a build: `over` wins where it says anything. */
export function mergeBuilds(under: Partial<PackageBuild>, over: Partial<PackageBuild>): PackageBuild {
  const said = Object.entries(over).filter(
    ([, value]) => value !== null && !(Array.isArray(value) && value.length === 0),
  );
  return { ...UNKNOWN_BUILD, ...under, ...Object.fromEntries(said) };
}

/** An image that stands in the package whole, as far as nothing else is said. */
export function plainImage(
  partition: string,
  size: number | null,
  rest: Partial<PackageImage> = {},
): PackageImage {
  return {
    partition,
    size,
    sha256: null,
    crc32: null,
    needsSource: false,
    source: null,
    unsupported: [],
    slots: null,
    member: null,
    ...rest,
  };
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

/** One thing in a package, by its place: files of archives, partitions of payloads. */
export interface PackageContent {
  /** Parts parted by `/`, from the outside in. */
  readonly path: string;
  readonly size: number | null;
  readonly sha256: string | null;
  readonly crc32: number | null;
  /** The partition whose image it is, where one can be taken out of it. */
  readonly partition: string | null;
}

/** A package whose index has been read; images are taken out of it one by one. */
export interface OpenedPackage {
  readonly report: PackageReport;
  readonly contents: readonly PackageContent[];
  /**
   * Writes one image, raw and unwrapped, and reads it back.
   * @param old the partition's old image, for packages that need it
   * @throws {EternoError} `not-found` where the package has no such image, and all of the format's readers
   */
  take(partition: string, sink: ImageSink, watch?: Watch, old?: ByteSource | null): Promise<TakenImage>;
}

export interface TakenImage {
  readonly size: number;
  readonly sha256: string;
  /** Compared with a hash that the package states. */
  readonly verified: boolean;
}
