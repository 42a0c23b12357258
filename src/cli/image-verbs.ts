import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { readPieces } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { readSparse } from '@/core/formats/sparse/reader';
import { writeSparse } from '@/core/formats/sparse/writer';
import { LIMITS } from '@/core/limits';
import { inspectImage } from '@/core/packages/inspect-image';
import { listRamdisk, readRamdiskFile } from '@/core/packages/list-ramdisk';
import { compareImages } from '@/core/patch/compare-images';
import { fileSink, writeFileWhole } from '@/platform/node/file-sink';
import type { FileSource } from '@/platform/node/file-source';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { parseArguments } from './arguments';
import { withFile, withFiles } from './files';
import type { Verb } from './verb';

export const inspect: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [1, 1]);
  return withFile(positionals[0]!, (source) => inspectImage(source, pooledPorts));
};

export const list: Verb = async (args) => {
  const parsed = parseArguments(args, ['path', 'out'], [1, 1]);
  const path = parsed.option('path');
  return withFile(parsed.positionals[0]!, async (source) => {
    if (path === undefined) return listRamdisk(source, pooledPorts);
    const out = parsed.required('out');
    const bytes = await readRamdiskFile(source, path, pooledPorts);
    await writeFileWhole(out, bytes);
    return { path, size: bytes.length, out };
  });
};

export const compare: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [2, 2]);
  return withFiles(positionals, ([a, b]) => compareImages(a!, b!, pooledPorts));
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
