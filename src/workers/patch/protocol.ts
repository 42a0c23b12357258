import type { Outcome } from '@/contracts/outcome';
import type { PatchedImage } from '@/core/patch/patch-image';
import type { Progress } from '@/core/ports';

/** A patched image as it leaves the worker: its bytes as a buffer that is handed over, not copied. */
export type PatchedInWorker = Omit<PatchedImage, 'bytes' | 'partition'> & { readonly bytes: ArrayBuffer };

export interface PatchWorkerApi {
  patch(stock: Blob, kit: Blob, onProgress: (progress: Progress) => void): Promise<Outcome<PatchedInWorker>>;
}
