import { expose } from 'comlink';
import { outcome } from '@/contracts/outcome';
import type { CountingSource } from '@/core/bytes/byte-source';
import { coveredBytes, readPieces } from '@/core/bytes/byte-source';
import { toHex } from '@/core/bytes/bytes';
import { digestOfSource } from '@/core/bytes/digest';
import { memorySink } from '@/core/bytes/image-sink';
import { EternoError, throwIfAborted } from '@/core/errors';
import { readSide } from '@/core/judge/judged-side';
import { signsOfPatch } from '@/core/judge/traces';
import { unwrap } from '@/core/packages/unwrap';
import { repackTarSet } from '@/core/packages/repack-tar-set';
import { ownFile } from '@/platform/browser/own-file';
import { roleOfOpened } from '@/core/table/roll-call';
import { openReadBack } from '@/core/slots/read-back';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import { nowAndThen } from '../now-and-then';
import { OpenedPackages } from './opened-packages';
import type { FirmwareWorkerApi, ReadSoFar } from './protocol';

const packages = new OpenedPackages<File>(pooledPorts, (file) => blobSource(file, file.name));
const aborts = { calls: new AbortController(), work: new AbortController() };
/** A signal for what begins now. */
function begin(what: keyof typeof aborts): AbortSignal {
  aborts[what] = new AbortController();
  return aborts[what].signal;
}

const readSoFar = (sources: readonly CountingSource[]): ReadSoFar => ({
  bytesRead: sources.reduce((sum, { ranges }) => sum + coveredBytes(ranges), 0),
  ranges: (sources[0]?.ranges ?? []).map(([start, end]) => [start, end] as const),
});

const DIGEST_PIECE_BYTES = 4 << 20;

/** What a single image says of having been patched; nothing where its ramdisk can't be read. */
async function signsOf(file: File) {
  try {
    const { source } = await unwrap(blobSource(file, file.name), pooledPorts);
    return signsOfPatch(await readSide(source, pooledPorts));
  } catch (thrown) {
    if (thrown instanceof EternoError) return null;
    throw thrown;
  }
}

const api: FirmwareWorkerApi = {
  call: (file) =>
    outcome(async () => {
      const { pack, sources } = await packages.once([file], { signal: begin('calls') });
      return roleOfOpened(sources[0]!, pack.report, pooledPorts);
    }),
  open: (files, onRead) =>
    outcome(async () => {
      const totalBytes = files.reduce((sum, file) => sum + file.size, 0);
      let read: readonly CountingSource[] = [];
      const tell = nowAndThen(() => onRead(readSoFar(read)));
      const opened = await packages.choose(files, { signal: begin('work') }, (sources, doneBytes) => {
        read = sources;
        tell({ phase: 'open', doneBytes, totalBytes });
      });
      const { pack, sources, opening } = opened;
      if (pack.report.images.length > 0) void pooledPorts.codecs.warmUp().catch(() => undefined);
      const { report, contents } = pack;
      const signs = report.kind === 'bare-image' ? await signsOf(files[0]!) : null;
      return { report, contents, opening, signs, ...readSoFar(sources) };
    }),
  take: (partition, old, onProgress) =>
    outcome(async () => {
      const { current } = packages;
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
  repack: (partition, patched, onProgress) =>
    outcome(async () => {
      const { current } = packages;
      if (!current) throw new EternoError('internal', 'no package is open');
      const watch = { signal: begin('work'), onProgress: nowAndThen(onProgress) };
      const [file, member] =
        current.pack.contents.find((one) => one.partition === partition)?.path.split('/') ?? [];
      const source = current.sources.find(({ name }) => name === file);
      if (current.pack.report.kind !== 'tar-set' || !source || member === undefined)
        throw new EternoError('not-found', `no archive of this set holds ${partition}`);
      const own = await ownFile('patched-archive.tar');
      try {
        const { archives } = await repackTarSet(
          [source],
          new Map([[member, blobSource(patched, `patched ${partition}`)]]),
          () => own,
          pooledPorts,
          watch,
        );
        return { ...archives[0]!, file: await own.file() };
      } catch (thrown) {
        await own.discard();
        throw thrown;
      }
    }),
  digest: (file, names, onProgress) =>
    outcome(async () => {
      const signal = begin('work');
      const tell = nowAndThen(onProgress);
      const [only, ...more] = names;
      const source = blobSource(file, file.name);
      if (only !== undefined && more.length === 0) {
        const progress = (doneBytes: number) => tell({ phase: 'hash', doneBytes, totalBytes: file.size });
        return { [only]: await digestOfSource(pooledPorts.digests, only, source, signal, progress) };
      }
      const digests = await Promise.all(names.map((name) => pooledPorts.digests.create(name)));
      let doneBytes = 0;
      for await (const piece of readPieces(source, DIGEST_PIECE_BYTES, signal)) {
        throwIfAborted(signal);
        for (const digest of digests) digest.update(piece);
        doneBytes += piece.length;
        tell({ phase: 'hash', doneBytes, totalBytes: file.size });
      }
      return Object.fromEntries(names.map((name, i) => [name, toHex(digests[i]!.finish())]));
    }),
  readBack: (files, known, onProgress) =>
    outcome(() => {
      const signal = begin('work');
      const sources = files.map((file) => blobSource(file, file.name));
      return openReadBack(sources, known, pooledPorts, { signal, onProgress: nowAndThen(onProgress) });
    }),
  async cancel(what) {
    aborts[what].abort();
  },
};

expose(api);
