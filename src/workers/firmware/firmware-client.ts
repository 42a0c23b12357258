import type { Remote } from 'comlink';
import { proxy, wrap } from 'comlink';
import type { Outcome } from '@/contracts/outcome';
import type { Progress } from '@/core/ports';
import type { FirmwareWorkerApi, OpenedInWorker, ReadSoFar, TakenInWorker } from './protocol';

export type { OpenedInWorker, ReadSoFar, TakenInWorker } from './protocol';

/** A package read in a worker of its own; `end` throws the worker away. */
export class FirmwareClient {
  private readonly worker = new Worker(new URL('./firmware.worker.ts', import.meta.url), { type: 'module' });
  private readonly api: Remote<FirmwareWorkerApi> = wrap<FirmwareWorkerApi>(this.worker);

  open(file: File): Promise<Outcome<OpenedInWorker>> {
    return this.api.open(file);
  }
  take(partition: string, onProgress: (progress: Progress, read: ReadSoFar) => void): Promise<Outcome<TakenInWorker>> {
    return this.api.take(partition, proxy(onProgress));
  }
  cancel(): Promise<void> {
    return this.api.cancel();
  }
  end(): void {
    this.worker.terminate();
  }
}
