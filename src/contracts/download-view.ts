import type { JudgedList } from '@/core/finding/listed-builds';

/** A file of the maker's page, here or on its way; sizes in bytes. */
export interface DownloadView {
  readonly sha256: string;
  readonly name: string;
  readonly size: number;
  /** So much of it is here. */
  readonly have: number;
  /** `part`: it was stopped, and goes on from there; `whole`: all of it is here, its hash is right. */
  readonly state: 'coming' | 'part' | 'whole';
  /** The job that fetches it; null where none does. */
  readonly jobId: string | null;
}

/** What the maker's page offers, as it was read last. */
export interface DownloadPageView {
  readonly title: string;
  /** When it was read last; null where it never answered. */
  readonly readAt: number | null;
  /** Whether it answered then. */
  readonly answers: boolean;
  /** Its lines against each handset. */
  readonly handsets: readonly {
    readonly id: string;
    readonly name: string;
    /** Null where its build was never read. */
    readonly list: JudgedList | null;
  }[];
  readonly downloads: readonly DownloadView[];
}
