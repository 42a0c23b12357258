import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { countingSource, readPieces } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { readSparse } from '@/core/formats/sparse/reader';
import { writeSparse } from '@/core/formats/sparse/writer';
import { readKit } from '@/core/kits/read-kit';
import { LIMITS } from '@/core/limits';
import { inspectImage } from '@/core/packages/inspect-image';
import { listRamdisk, readRamdiskFile } from '@/core/packages/list-ramdisk';
import { openPackage } from '@/core/packages/open-package';
import { patchImage } from '@/core/patch/patch-image';
import type { Progress } from '@/core/ports';
import { fileSink, writeFileWhole } from '@/platform/node/file-sink';
import type { FileSource } from '@/platform/node/file-source';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { parseArguments } from './arguments';

/** What a verb is given beside its arguments. */
export interface VerbContext {
  readonly signal: AbortSignal;
  readonly onProgress?: (progress: Progress) => void;
}
export type Verb = (args: readonly string[], context: VerbContext) => Promise<object>;

async function withFile<T>(path: string, work: (source: FileSource) => Promise<T>): Promise<T> {
  const source = await openFile(path);
  try {
    return await work(source);
  } finally {
    await source.close();
  }
}

const MOST_FILES = 64;

export const identify: Verb = async (args, { signal }) => {
  const { positionals } = parseArguments(args, [], [1, MOST_FILES]);
  return withFile(onlyFile(positionals), async (source) => (await openPackage(source, nodePorts, signal)).report);
};

function onlyFile(positionals: readonly string[]): string {
  if (positionals.length > 1) throw new EternoError('unsupported', 'sets of several files are not read yet');
  return positionals[0]!;
}

export const take: Verb = async (args, { signal, onProgress }) => {
  const parsed = parseArguments(args, ['image', 'out', 'source'], [1, MOST_FILES]);
  const [partition, out] = [parsed.required('image'), parsed.required('out')];
  if (parsed.option('source') !== undefined) throw new EternoError('unsupported', 'incremental packages are not computed yet');
  return withFile(onlyFile(parsed.positionals), async (file) => {
    const source = countingSource(file);
    const opened = await openPackage(source, nodePorts, signal);
    const sink = fileSink(out);
    try {
      const taken = await opened.take(partition, sink, { signal, ...(onProgress ? { onProgress } : {}) });
      await sink.commit();
      return { partition, ...taken, bytesRead: source.bytesRead, out };
    } finally {
      await sink.discard();
    }
  });
};

export const inspect: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  return withFile(positionals[0]!, (source) => inspectImage(source, nodePorts));
};

export const list: Verb = async (args) => {
  const parsed = parseArguments(args, ['path', 'out'], [1, 1]);
  const path = parsed.option('path');
  return withFile(parsed.positionals[0]!, async (source) => {
    if (path === undefined) return listRamdisk(source, nodePorts);
    const out = parsed.required('out');
    const bytes = await readRamdiskFile(source, path, nodePorts);
    await writeFileWhole(out, bytes);
    return { path, size: bytes.length, out };
  });
};

export const patch: Verb = async (args, { signal, onProgress }) => {
  const parsed = parseArguments(args, ['kit', 'out', 'avb', 'key', 'fingerprint'], [1, 1]);
  const [kitPath, out] = [parsed.required('kit'), parsed.required('out')];
  const avb = parsed.option('avb') ?? 'carry';
  if (avb === 'rehash' || avb === 'sign') throw new EternoError('unsupported', `--avb ${avb} is not built yet; carry is`);
  if (avb !== 'carry') throw new EternoError('usage', '--avb takes carry, rehash or sign');
  const fingerprint = parsed.option('fingerprint');
  return withFile(parsed.positionals[0]!, (stock) =>
    withFile(kitPath, async (kitFile) => {
      const { kit } = await readKit(kitFile, nodePorts);
      const watch = { signal, ...(onProgress ? { onProgress } : {}) };
      const {
        bytes,
        sha256,
        stockSha256,
        changes,
        proof,
        kit: name,
        notes,
      } = await patchImage(stock, kit, nodePorts, fingerprint === undefined ? {} : { fingerprint }, watch);
      await writeFileWhole(out, bytes);
      return { out, size: bytes.length, sha256, stockSha256, kit: name, avb, changes, proof, notes };
    }),
  );
};

export const facts: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  const path = positionals[0]!;
  const info = await stat(path).catch((thrown: unknown) => {
    throw new EternoError('not-found', 'there is no such file', { file: basename(path), cause: thrown });
  });
  if (info.size > LIMITS.factsTextBytes) throw new EternoError('too-large', 'the text is longer than any handset prints', { file: basename(path) });
  const printed = parsePrinted(await readFile(path, 'utf8'));
  return { ...interpretFacts(printed.values), values: printed.values, unread: printed.unread };
};

/** Reads an image and writes it in another form; the result is there whole or not at all. */
async function convert(
  args: readonly string[],
  work: (source: FileSource, write: (bytes: Uint8Array) => Promise<void>) => Promise<void>,
): Promise<object> {
  const parsed = parseArguments(args, ['out'], [1, 1]);
  const out = parsed.required('out');
  return withFile(parsed.positionals[0]!, async (source) => {
    const sink = fileSink(out);
    let size = 0;
    try {
      await sink.begin(0);
      await work(source, async (bytes) => {
        await sink.writeAt(size, bytes);
        size += bytes.length;
      });
      await sink.commit();
      return { out, size };
    } finally {
      await sink.discard();
    }
  });
}

export const sparse: Verb = (args, { signal }) => convert(args, (source, write) => writeSparse(source, write, signal));

export const unsparse: Verb = (args, { signal }) =>
  convert(args, async (source, write) => {
    const image = await readSparse(source);
    for await (const piece of readPieces(image.output, 1 << 20, signal)) await write(piece);
    await image.checkCrc(signal);
  });
