import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { Outcome } from '@/contracts/outcome';
import type { JudgedPatch } from '@/core/judge/judge-patched';
import type { EntryRow } from '@/core/packages/entry-rows';
import type { ComparedImage, EntryBytes, ImageWorkerApi, OpenedImage } from './protocol';

export type { ComparedImage, EntryBytes, OpenedImage } from './protocol';

/** An image taken apart in a worker of its own; `end` throws the worker away. */
export class ImageClient {
  private readonly worker = new Worker(new URL('./image.worker.ts', import.meta.url), { type: 'module' });
  private readonly api: Remote<ImageWorkerApi> = wrap<ImageWorkerApi>(this.worker);

  open(image: Blob): Promise<Outcome<OpenedImage>> {
    return this.api.open(image);
  }
  rows(start: number, end: number): Promise<readonly EntryRow[]> {
    return this.api.rows(start, end);
  }
  compare(image: Blob, ownIs: 'stock' | 'made'): Promise<Outcome<ComparedImage>> {
    return this.api.compare(image, ownIs);
  }
  judgeWithKit(kit: Blob): Promise<Outcome<JudgedPatch>> {
    return this.api.judgeWithKit(kit);
  }
  read(side: 'own' | 'other', nameHex: string): Promise<Outcome<EntryBytes | null>> {
    return this.api.read(side, nameHex);
  }
  end(): void {
    this.worker.terminate();
  }
}
