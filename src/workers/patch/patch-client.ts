import { proxy, wrap } from 'comlink';
import type { Outcome } from '@/contracts/outcome';
import type { Progress } from '@/core/ports';
import type { PatchChoice, PatchedInWorker, PatchWorkerApi } from './protocol';

export type { PatchChoice, PatchedInWorker } from './protocol';

/** Patches in a worker made for it; stopping ends the worker, so nothing goes on behind. */
export class PatchClient {
  private readonly worker = new Worker(new URL('./patch.worker.ts', import.meta.url), { type: 'module' });

  patch(
    stock: Blob,
    kit: Blob,
    choice: PatchChoice,
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<PatchedInWorker>> {
    return wrap<PatchWorkerApi>(this.worker).patch(stock, kit, choice, proxy(onProgress));
  }
  end(): void {
    this.worker.terminate();
  }
}
