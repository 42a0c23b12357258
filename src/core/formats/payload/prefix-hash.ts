import type { ImageSink } from '../../bytes/image-sink';
import { toHex } from '../../bytes/bytes';
import { subSource } from '../../bytes/byte-source';
import type { Digests } from '../../bytes/digest';
import { sha256Hex, sha256OfSource } from '../../bytes/digest';
import type { Extent } from './layout';

const PIECE_BYTES = 1 << 20;

/** What is written, in the order it lies in the image. */
interface Stretch {
  readonly end: number;
  done: boolean;
}

export interface PrefixHash {
  /** Tells that an operation's blocks are written. */
  done(operation: number): void;
  /** SHA-256 of the whole image as read back, lower-case hex; call it when all is written. */
  finish(): Promise<string>;
}

/**
 * Hashes an image as it grows: whatever stands without a gap from its first byte is read back and hashed
 * while the rest is still being made.
 * @param extents of each operation, in blocks; what no operation writes counts as written
 * @param size of the image in bytes
 */
export async function prefixHash(
  extents: readonly (readonly Extent[])[],
  blockSize: number,
  size: number,
  sink: ImageSink,
  digests: Digests,
  signal?: AbortSignal,
): Promise<PrefixHash> {
  if (digests.whole) return hashAtEnd(size, sink, digests, signal);
  const digest = await digests.create('sha256');
  const mine: Stretch[][] = [];
  const all = extents
    .flatMap((list, operation) =>
      list.map((extent) => ({
        operation,
        start: extent.startBlock * blockSize,
        end: (extent.startBlock + extent.blockCount) * blockSize,
      })),
    )
    .sort((a, b) => a.start - b.start)
    .map(({ operation, end }) => {
      const stretch = { end: Math.min(end, size), done: false };
      (mine[operation] ??= []).push(stretch);
      return stretch;
    });
  let next = 0;
  let hashed = 0;
  let chain = Promise.resolve();
  const hashUpTo = (end: number) => {
    const start = hashed;
    hashed = end;
    chain = chain.then(async () => {
      const source = await sink.readBack();
      for (let at = start; at < end; at += PIECE_BYTES)
        digest.update(await source.read(at, Math.min(end, at + PIECE_BYTES), signal));
    });
    // a failure is heard at the end
    chain.catch(() => undefined);
  };
  return {
    done(operation) {
      for (const stretch of mine[operation] ?? []) stretch.done = true;
      let end = hashed;
      for (; next < all.length && all[next]!.done; next += 1) end = all[next]!.end;
      if (end > hashed) hashUpTo(end);
    },
    async finish() {
      if (hashed < size) hashUpTo(size);
      await chain;
      return toHex(digest.finish());
    },
  };
}

/** Where the platform hashes the whole at once, and on another thread, that is quicker than piece by piece. */
const hashAtEnd = (size: number, sink: ImageSink, digests: Digests, signal?: AbortSignal): PrefixHash => ({
  done: () => undefined,
  finish: async () =>
    sink.bytes
      ? sha256Hex(digests, sink.bytes)
      : sha256OfSource(digests, subSource(await sink.readBack(), 0, size), signal),
});
