import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { readPieces, subSource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { readSparse } from '@/core/formats/sparse/reader';
import { writeSparse } from '@/core/formats/sparse/writer';
import { LIMITS } from '@/core/limits';
import { inspectImage } from '@/core/packages/inspect-image';
import { listRamdisk, readRamdiskFile } from '@/core/packages/list-ramdisk';
import { compareImages } from '@/core/patch/compare-images';
import type { FileSink } from '@/platform/node/file-sink';
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
  if (info.size > LIMITS.factsTextBytes)
    throw new EternoError('too-large', 'the text is longer than any handset prints', {
      file: basename(path),
    });
  const printed = parsePrinted(await readFile(path, 'utf8'));
  return { ...interpretFacts(printed.values), values: printed.values, unread: printed.unread };
};

/** Reads an image and writes it in another form; the result is there whole or not at all. */
async function convert(
  args: readonly string[],
  work: (source: FileSource, sink: FileSink) => Promise<number>,
): Promise<object> {
  const parsed = parseArguments(args, ['out'], [1, 1]);
  const out = parsed.required('out');
  return withFile(parsed.positionals[0]!, async (source) => {
    const sink = fileSink(out);
    try {
      const size = await work(source, sink);
      await sink.commit();
      return { out, size };
    } finally {
      await sink.discard();
    }
  });
}

export const sparse: Verb = (args, { signal }) =>
  convert(args, async (source, sink) => {
    let size = 0;
    await sink.begin(0);
    const append = async (bytes: Uint8Array) => {
      await sink.writeAt(size, bytes);
      size += bytes.length;
    };
    await writeSparse(source, append, signal);
    return size;
  });

export const unsparse: Verb = (args, { signal }) =>
  convert(args, async (source, sink) => {
    const { output, filled, checkCrc } = await readSparse(source);
    // zeros are there already: the file has its size before its first byte
    await sink.begin(output.size);
    for (const { start, end } of filled) {
      let at = start;
      for await (const piece of readPieces(subSource(output, start, end), 1 << 20, signal)) {
        await sink.writeAt(at, piece);
        at += piece.length;
      }
    }
    await checkCrc(signal);
    return output.size;
  });
