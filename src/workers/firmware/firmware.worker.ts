import { expose, transfer } from 'comlink';
import { outcome } from '@/contracts/outcome';
import type { CountingSource } from '@/core/bytes/byte-source';
import { countingSource } from '@/core/bytes/byte-source';
import { memorySink } from '@/core/bytes/image-sink';
import { EternoError } from '@/core/errors';
import { openPackage } from '@/core/packages/open-package';
import type { OpenedPackage } from '@/core/packages/package-report';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import type { FirmwareWorkerApi, ReadSoFar } from './protocol';

let opened: { readonly pack: OpenedPackage; readonly source: CountingSource } | null = null;
let abort = new AbortController();

const readSoFar = (source: CountingSource): ReadSoFar => ({
  bytesRead: source.bytesRead,
  ranges: source.ranges.map(([start, end]) => [start, end] as const),
});

const api: FirmwareWorkerApi = {
  open: (file) =>
    outcome(async () => {
      abort = new AbortController();
      opened = null;
      const source = countingSource(blobSource(file, file.name));
      const pack = await openPackage(source, pooledPorts, { signal: abort.signal });
      opened = { pack, source };
      return { report: pack.report, ...readSoFar(source) };
    }),
  async take(partition, onProgress) {
    const result = await outcome(async () => {
      if (!opened) throw new EternoError('internal', 'no package is open');
      abort = new AbortController();
      const { pack, source } = opened;
      const sink = memorySink(partition);
      const taken = await pack.take(partition, sink, { signal: abort.signal, onProgress: (progress) => onProgress(progress, readSoFar(source)) });
      return { ...taken, ...readSoFar(source), bytes: sink.bytes.buffer };
    });
    return result.ok ? transfer(result, [result.value.bytes]) : result;
  },
  async cancel() {
    abort.abort();
  },
};

expose(api);
