import type { Outcome } from '@/contracts/outcome';
import type { OptionValues } from '@/core/patch/steps-that-run';
import type { PatchedImage } from '@/core/patch/patch-image';
import type { Progress } from '@/core/ports';

/** A patched image as it leaves the worker: its bytes as a blob made in the worker. */
export type PatchedInWorker = Omit<PatchedImage, 'bytes' | 'partition'> & { readonly image: Blob };

export interface PatchChoice {
  /** What becomes of verified-boot data; signing needs a key, which no browser is given. */
  readonly avb: 'carry' | 'rehash';
  readonly gzipInstead: boolean;
  /** Of the kit's options; its own choice where nothing is said. */
  readonly options: OptionValues;
}

export interface PatchWorkerApi {
  patch(
    stock: Blob,
    kit: Blob,
    choice: PatchChoice,
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<PatchedInWorker>>;
}
