import type { Outcome } from '@/contracts/outcome';
import type { ChecksumName } from '@/core/table/checksum-list';
import type { ByteRange } from '@/core/packages/partial-source';
import type { PackageContent, PackageReport } from '@/core/packages/package-report';
import type { RepackedTar } from '@/core/packages/repack-tar-set';
import type { signsOfPatch } from '@/core/judge/traces';
import type { FileOnTable } from '@/core/table/roll-call';
import type { Progress } from '@/core/ports';
import type { SizedImage } from '@/core/slots/held-image';
import type { OpenedReadBack } from '@/core/slots/read-back';

export type PatchSigns = ReturnType<typeof signsOfPatch>;

/** Bytes of the files that were read, as ranges of the first; shown as where in the file they lie. */
export interface ReadSoFar {
  readonly bytesRead: number;
  readonly ranges: readonly ByteRange[];
}

export interface OpenedInWorker extends ReadSoFar {
  /** What opening it read of each file, in their order. */
  readonly opening: readonly (readonly ByteRange[])[];
  readonly report: PackageReport;
  readonly contents: readonly PackageContent[];
  /** Of a single image: how often it was patched and by whom, by what it shows; null for every other file. */
  readonly signs: PatchSigns | null;
}

export interface TakenInWorker extends ReadSoFar {
  /** Made in the worker: a page that makes a large one of bytes stands still for it. */
  readonly image: Blob;
  readonly sha256: string;
  readonly size: number;
  readonly verified: boolean;
}

export interface RepackedInWorker extends RepackedTar {
  /** On the disk, in a place of the page's own. */
  readonly file: File;
}

export type DigestedName = Exclude<ChecksumName, 'sha512'>;
export type Digested = Readonly<Partial<Record<DigestedName, string>>>;

/** What the worker answers to. A package that was opened stays open; one at a time is taken out of. */
export interface FirmwareWorkerApi {
  /** The role of one file, by what is in it. */
  call(file: File): Promise<Outcome<FileOnTable>>;
  /** Opens files that belong together as one package. */
  open(files: readonly File[], onRead: (read: ReadSoFar) => void): Promise<Outcome<OpenedInWorker>>;
  /** @param old the partition's old image, for packages that need it */
  take(
    partition: string,
    old: Blob | null,
    onProgress: (progress: Progress, read: ReadSoFar) => void,
  ): Promise<Outcome<TakenInWorker>>;
  /**
   * The archive of the open set that holds a partition, written again with the patched image in it and proved
   * member by member.
   */
  repack(
    partition: string,
    patched: Blob,
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<RepackedInWorker>>;
  /** Digests of a file in one pass. */
  digest(
    file: File,
    names: readonly DigestedName[],
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<Digested>>;
  /** Hashes and recognises partitions that were read out of a handset, tars opened in place. */
  readBack(
    files: readonly File[],
    known: readonly SizedImage[],
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<OpenedReadBack[]>>;
  /** Stops what is under way at its next await: calling files, or all the rest. */
  cancel(what: 'calls' | 'work'): Promise<void>;
}
