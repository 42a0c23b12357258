import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import type { StreamCodec } from '../codecs/codec';
import { guessCompression } from '../codecs/codec';
import { decodeAll } from '../codecs/decode-all';
import { EternoError } from '../errors';
import { isSparse } from '../formats/sparse/layout';
import { readSparse } from '../formats/sparse/reader';
import { LIMITS } from '../limits';
import type { Ports } from '../ports';

/** A file with its wrappings taken off. */
export interface Unwrapped {
  readonly source: ByteSource;
  /** What stood around it, from the outside in, in words. */
  readonly wrappings: readonly string[];
  /**
   * Checks what the wrappings state of the whole; call it when all of it is taken.
   * @throws {EternoError} `bad-hash`
   */
  check(signal?: AbortSignal): Promise<void>;
}

/**
 * Takes sparse and compressed wrappings off an image. Sparse images are read lazily; a compressed file is
 * unpacked whole, within the limit of images held in memory.
 * @throws {EternoError} `too-deep`, `too-large`, `unsupported`, `corrupt`, `truncated` and what the sparse
 *   reader finds wrong
 */
export async function unwrap(source: ByteSource, ports: Pick<Ports, 'codecs'>): Promise<Unwrapped> {
  let current = source;
  const wrappings: string[] = [];
  const checks: ((signal?: AbortSignal) => Promise<void>)[] = [];
  for (;;) {
    const head = await current.read(0, Math.min(current.size, 8));
    const sparse = isSparse(head);
    const kind = sparse ? null : guessCompression(head);
    if (!sparse && (kind === null || kind === 'none')) break;
    if (wrappings.length >= LIMITS.wrappings)
      throw new EternoError('too-deep', `packed inside itself more than ${LIMITS.wrappings} times`, {
        file: source.name,
      });
    if (sparse) {
      const image = await readSparse(current);
      checks.push((signal) => image.checkCrc(signal));
      current = image.output;
      wrappings.push('a sparse image');
      continue;
    }
    current = await unpack(current, kind as StreamCodec, ports);
    wrappings.push(`packed as ${kind}`);
  }
  return {
    source: current,
    wrappings,
    async check(signal) {
      for (const one of checks) await one(signal);
    },
  };
}

async function unpack(
  source: ByteSource,
  kind: StreamCodec,
  { codecs }: Pick<Ports, 'codecs'>,
): Promise<ByteSource> {
  if (source.size > LIMITS.imageBytes)
    throw new EternoError('too-large', `a packed file of ${source.size} bytes`, { file: source.name });
  try {
    return memorySource(
      await decodeAll(codecs, kind, await source.read(0, source.size), LIMITS.imageBytes),
      source.name,
    );
  } catch (thrown) {
    throw thrown instanceof EternoError ? thrown.inFile(source.name) : thrown;
  }
}
