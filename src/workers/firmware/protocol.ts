import type { Outcome } from '@/contracts/outcome';
import type { PackageReport } from '@/core/packages/package-report';
import type { Progress } from '@/core/ports';

/** Bytes of the file that were read, as ranges; shown as where in the file they lie. */
export interface ReadSoFar {
  readonly bytesRead: number;
  readonly ranges: readonly (readonly [number, number])[];
}

export interface OpenedInWorker extends ReadSoFar {
  readonly report: PackageReport;
}

export interface TakenInWorker extends ReadSoFar {
  readonly bytes: ArrayBuffer;
  readonly sha256: string;
  readonly size: number;
  readonly verified: boolean;
}

/** What the worker answers to; one package at a time. */
export interface FirmwareWorkerApi {
  open(file: File): Promise<Outcome<OpenedInWorker>>;
  take(partition: string, onProgress: (progress: Progress, read: ReadSoFar) => void): Promise<Outcome<TakenInWorker>>;
  /** Stops what is under way at its next await. */
  cancel(): Promise<void>;
}
