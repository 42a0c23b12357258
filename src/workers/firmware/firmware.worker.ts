import { expose } from 'comlink';
import { outcome } from '@/contracts/outcome';
import type { CountingSource } from '@/core/bytes/byte-source';
import { countingSource, readPieces } from '@/core/bytes/byte-source';
import { toHex } from '@/core/bytes/bytes';
import { memorySink } from '@/core/bytes/image-sink';
import { EternoError, throwIfAborted } from '@/core/errors';
import { openPackageFiles } from '@/core/packages/open-package';
import type { OpenedPackage } from '@/core/packages/package-report';
import { callFile } from '@/core/table/roll-call';
import { openReadBack } from '@/core/slots/read-back';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import { nowAndThen } from '../now-and-then';
import type { FirmwareWorkerApi, ReadSoFar } from './protocol';

let opened: { readonly pack: OpenedPackage; readonly sources: readonly CountingSource[] } | null = null;
let abort = new AbortController();

const readSoFar = (sources: readonly CountingSource[]): ReadSoFar => ({
  bytesRead: sources.reduce((sum, source) => sum + source.bytesRead, 0),
  ranges: (sources[0]?.ranges ?? []).map(([start, end]) => [start, end] as const),
});

const DIGEST_PIECE_BYTES = 4 << 20;

const api: FirmwareWorkerApi = {
  call: (file) => outcome(() => callFile(blobSource(file, file.name), pooledPorts)),
  open: (files, onRead) =>
    outcome(async () => {
      abort = new AbortController();
      opened = null;
      const totalBytes = files.reduce((sum, file) => sum + file.size, 0);
      const tell = nowAndThen(() => onRead(readSoFar(sources)));
      const sources: CountingSource[] = files.map((file) =>
        countingSource(blobSource(file, file.name), (doneBytes) => tell({ phase: 'open', doneBytes, totalBytes })),
      );
      const pack = await openPackageFiles(sources, pooledPorts, { signal: abort.signal });
      opened = { pack, sources };
      if (pack.report.images.length > 0) void pooledPorts.codecs.warmUp().catch(() => undefined);
      return { report: pack.report, contents: pack.contents, ...readSoFar(sources) };
    }),
  take: (partition, old, onProgress) =>
    outcome(async () => {
      if (!opened) throw new EternoError('internal', 'no package is open');
      abort = new AbortController();
      const { pack, sources } = opened;
      const sink = memorySink(partition);
      const watch = { signal: abort.signal, onProgress: nowAndThen((progress) => onProgress(progress, readSoFar(sources))) };
      const taken = await pack.take(partition, sink, watch, old && blobSource(old, `the old ${partition}`));
      return { ...taken, ...readSoFar(sources), image: new Blob([sink.bytes]) };
    }),
  digest: (file, names, onProgress) =>
    outcome(async () => {
      abort = new AbortController();
      const { signal } = abort;
      const digests = await Promise.all(names.map((name) => pooledPorts.digests.create(name)));
      const tell = nowAndThen(onProgress);
      let doneBytes = 0;
      for await (const piece of readPieces(blobSource(file, file.name), DIGEST_PIECE_BYTES, signal)) {
        throwIfAborted(signal);
        for (const digest of digests) digest.update(piece);
        doneBytes += piece.length;
        tell({ phase: 'hash', doneBytes, totalBytes: file.size });
      }
      return Object.fromEntries(names.map((name, i) => [name, toHex(digests[i]!.finish())]));
    }),
  readBack: (files, onProgress) =>
    outcome(() => {
      abort = new AbortController();
      const sources = files.map((file) => blobSource(file, file.name));
      return openReadBack(sources, pooledPorts, { signal: abort.signal, onProgress: nowAndThen(onProgress) });
    }),
  async cancel() {
    abort.abort();
  },
};

expose(api);
