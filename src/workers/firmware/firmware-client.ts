import type { Remote } from 'comlink';
import { proxy, wrap } from 'comlink';
import type { Outcome } from '@/contracts/outcome';
import type { FileOnTable } from '@/core/table/roll-call';
import type { Progress } from '@/core/ports';
import type { SizedImage } from '@/core/slots/held-image';
import type { OpenedReadBack } from '@/core/slots/read-back';
import type {
  Digested,
  DigestedName,
  FirmwareWorkerApi,
  OpenedInWorker,
  ReadSoFar,
  RepackedInWorker,
  TakenInWorker,
} from './protocol';

export type {
  Digested,
  DigestedName,
  OpenedInWorker,
  PatchSigns,
  ReadSoFar,
  RepackedInWorker,
  TakenInWorker,
} from './protocol';

/** Files read in a worker of its own; `end` throws the worker away. */
export class FirmwareClient {
  private readonly worker = new Worker(new URL('./firmware.worker.ts', import.meta.url), { type: 'module' });
  private readonly api: Remote<FirmwareWorkerApi> = wrap<FirmwareWorkerApi>(this.worker);

  call(file: File): Promise<Outcome<FileOnTable>> {
    return this.api.call(file);
  }
  open(files: readonly File[], onRead: (read: ReadSoFar) => void): Promise<Outcome<OpenedInWorker>> {
    return this.api.open(files, proxy(onRead));
  }
  take(
    partition: string,
    old: Blob | null,
    onProgress: (progress: Progress, read: ReadSoFar) => void,
  ): Promise<Outcome<TakenInWorker>> {
    return this.api.take(partition, old, proxy(onProgress));
  }
  repack(
    partition: string,
    patched: Blob,
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<RepackedInWorker>> {
    return this.api.repack(partition, patched, proxy(onProgress));
  }
  digest(
    file: File,
    names: readonly DigestedName[],
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<Digested>> {
    return this.api.digest(file, names, proxy(onProgress));
  }
  readBack(
    files: readonly File[],
    known: readonly SizedImage[],
    onProgress: (progress: Progress) => void,
  ): Promise<Outcome<OpenedReadBack[]>> {
    return this.api.readBack(files, known, proxy(onProgress));
  }
  cancel(what: 'calls' | 'work'): Promise<void> {
    return this.api.cancel(what);
  }
  end(): void {
    this.worker.terminate();
  }
}
