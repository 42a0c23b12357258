import type { Outcome } from '@/contracts/outcome';
import type { EntryChanges } from '@/core/patch/apply-steps';
import type { ProofLine } from '@/core/patch/prove-patch';
import type { Progress } from '@/core/ports';

export interface PatchedInWorker {
  readonly bytes: ArrayBuffer;
  readonly sha256: string;
  readonly stockSha256: string;
  readonly kit: string;
  readonly changes: EntryChanges;
  readonly proof: readonly ProofLine[];
  readonly notes: readonly string[];
}

export interface PatchWorkerApi {
  patch(stock: Blob, kit: Blob, onProgress: (progress: Progress) => void): Promise<Outcome<PatchedInWorker>>;
}
