import { expose } from 'comlink';
import { outcome } from '@/contracts/outcome';
import type { CountingSource } from '@/core/bytes/byte-source';
import { countingSource, readPieces } from '@/core/bytes/byte-source';
import { toHex } from '@/core/bytes/bytes';
import { memorySink } from '@/core/bytes/image-sink';
import { EternoError, throwIfAborted } from '@/core/errors';
import { openPackageFiles } from '@/core/packages/open-package';
import type { OpenedPackage } from '@/core/packages/package-report';
import type { ByteRange } from '@/core/packages/partial-source';
import type { Watch } from '@/core/ports';
import { roleOfOpened } from '@/core/table/roll-call';
import { openReadBack } from '@/core/slots/read-back';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import { nowAndThen } from '../now-and-then';
import type { FirmwareWorkerApi, ReadSoFar } from './protocol';

interface Opened {
  readonly pack: OpenedPackage;
  readonly sources: readonly CountingSource[];
  readonly opening: readonly (readonly ByteRange[])[];
}

/**
 * Packages that were opened, by their files: a file is opened once, to say what it is and to take out of it.
 */
const open = new Map<string, Opened>();
const MOST_OPEN = 40;
const keyOf = (files: readonly File[]) =>
  JSON.stringify(files.map(({ name, size, lastModified }) => [name, size, lastModified]));

async function openOnce(
  files: readonly File[],
  watch: Watch,
  onRead: (read: ReadSoFar) => void = () => undefined,
): Promise<Opened> {
  const key = keyOf(files);
  const before = open.get(key);
  if (before) return before;
  const totalBytes = files.reduce((sum, file) => sum + file.size, 0);
  const tell = nowAndThen(() => onRead(readSoFar(sources)));
  const sources: CountingSource[] = files.map((file) =>
    countingSource(blobSource(file, file.name), (doneBytes) =>
      tell({ phase: 'open', doneBytes, totalBytes }),
    ),
  );
  const pack = await openPackageFiles(sources, pooledPorts, watch);
  const opened = {
    pack,
    sources,
    opening: sources.map(({ ranges }) => ranges.map(([start, end]) => [start, end] as const)),
  };
  open.set(key, opened);
  const [oldest] = open.keys();
  if (open.size > MOST_OPEN) open.delete(oldest!);
  return opened;
}

/** The one that images are taken out of. */
let current: Opened | null = null;
const aborts = { calls: new AbortController(), work: new AbortController() };
/** A signal for what begins now. */
function begin(what: keyof typeof aborts): AbortSignal {
  aborts[what] = new AbortController();
  return aborts[what].signal;
}

const readSoFar = (sources: readonly CountingSource[]): ReadSoFar => ({
  bytesRead: sources.reduce((sum, source) => sum + source.bytesRead, 0),
  ranges: (sources[0]?.ranges ?? []).map(([start, end]) => [start, end] as const),
});

const DIGEST_PIECE_BYTES = 4 << 20;

const api: FirmwareWorkerApi = {
  call: (file) =>
    outcome(async () => {
      const { pack, sources } = await openOnce([file], { signal: begin('calls') });
      return roleOfOpened(sources[0]!, pack.report, pooledPorts);
    }),
  open: (files, onRead) =>
    outcome(async () => {
      current = null;
      const opened = await openOnce(files, { signal: begin('work') }, onRead);
      current = opened;
      const { pack, sources, opening } = opened;
      if (pack.report.images.length > 0) void pooledPorts.codecs.warmUp().catch(() => undefined);
      return { report: pack.report, contents: pack.contents, opening, ...readSoFar(sources) };
    }),
  take: (partition, old, onProgress) =>
    outcome(async () => {
      if (!current) throw new EternoError('internal', 'no package is open');
      const signal = begin('work');
      const { pack, sources } = current;
      const sink = memorySink(partition);
      const watch = {
        signal,
        onProgress: nowAndThen((progress) => onProgress(progress, readSoFar(sources))),
      };
      const taken = await pack.take(partition, sink, watch, old && blobSource(old, `the old ${partition}`));
      return { ...taken, ...readSoFar(sources), image: new Blob([sink.bytes]) };
    }),
  digest: (file, names, onProgress) =>
    outcome(async () => {
      const signal = begin('work');
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
      const signal = begin('work');
      const sources = files.map((file) => blobSource(file, file.name));
      return openReadBack(sources, pooledPorts, { signal, onProgress: nowAndThen(onProgress) });
    }),
  async cancel(what) {
    aborts[what].abort();
  },
};

expose(api);
