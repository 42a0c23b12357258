import type { Outcome } from '@/contracts/outcome';
import type { ByteRegion } from '@/core/packages/byte-regions';
import type { ImageReport } from '@/core/packages/inspect-image';
import type { EntryRow } from '@/core/packages/entry-rows';
import type { MonthToMonth } from '@/core/lineage/month-to-month';
import type { ImageComparison } from '@/core/patch/compare-images';
import type { JudgedPatch } from '@/core/judge/judge-patched';

export interface OpenedImage {
  readonly report: ImageReport;
  readonly regions: readonly ByteRegion[];
  /** Entries of all ramdisks; null where the image has none. They are fetched by the stretch. */
  readonly entries: number | null;
}

export interface ComparedImage {
  readonly report: ImageReport;
  readonly comparison: ImageComparison;
  /** The other image as a patch of the open one. */
  readonly judged: JudgedPatch;
  /** From the other image to the open one, as two months of one partition. */
  readonly months: MonthToMonth;
}

/** A ramdisk entry's bytes, as many as are shown. */
export interface EntryBytes {
  readonly bytes: ArrayBuffer;
  /** All there are. */
  readonly size: number;
}

/** What the worker answers to: one image, and one beside it. */
export interface ImageWorkerApi {
  open(image: Blob): Promise<Outcome<OpenedImage>>;
  /** Rows of the entry list, half-open: so many at once as a page takes in without standing still. */
  rows(start: number, end: number): Promise<readonly EntryRow[]>;
  /**
   * Opens an image beside the first one. The stock image comes first, and what was made of it is held against
   * it: `ownIs` says which of the two the first one is.
   */
  compare(image: Blob, ownIs: 'stock' | 'made'): Promise<Outcome<ComparedImage>>;
  /** The same judgement, with the kit that its note names at hand: what that one changes is expected. */
  judgeWithKit(kit: Blob): Promise<Outcome<JudgedPatch>>;
  /**
   * The entry in force under a name, in the first image or in the one beside it; null where there is none.
   */
  read(side: 'own' | 'other', nameHex: string): Promise<Outcome<EntryBytes | null>>;
}
