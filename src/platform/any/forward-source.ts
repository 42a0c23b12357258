import type { ByteSource } from '@/core/bytes/byte-source';
import { checkRange } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';

/** What was read last stays at hand, so that a directory at the end does not cost a second pass. */
const KEPT_BYTES = 4 * 1024 * 1024;

/**
 * Random access over bytes that come only front to back: a read further on skips there, a read further back
 * begins again. One read at a time.
 * @param size stated; more or fewer bytes are an error
 * @param begin starts the stream from its first byte
 */
export function forwardSource(
  name: string,
  size: number,
  begin: (signal: AbortSignal) => ReadableStream<Uint8Array>,
): ByteSource {
  let stop = new AbortController();
  let reader: ReadableStreamDefaultReader<Uint8Array> | null = null;
  /** The last pieces, one behind the other, ending at `at`. */
  let kept: { readonly start: number; readonly bytes: Uint8Array }[] = [];
  let at = 0;

  const restart = async () => {
    stop.abort();
    await reader?.cancel().catch(() => undefined);
    stop = new AbortController();
    reader = begin(stop.signal).getReader();
    kept = [];
    at = 0;
  };
  const nextPiece = async () => {
    let piece;
    try {
      piece = await reader!.read();
    } catch (thrown) {
      reader = null;
      const text = toEternoError(thrown).message;
      throw thrown instanceof EternoError
        ? thrown
        : new EternoError('corrupt', `${name}: ${text}`, { file: name, offset: at, cause: thrown });
    }
    if (piece.done)
      throw new EternoError('truncated', `${name} ends after ${at} of ${size} bytes`, {
        file: name,
        offset: at,
      });
    kept.push({ start: at, bytes: piece.value });
    at += piece.value.length;
    if (at > size)
      throw new EternoError('too-large', `${name} unpacks to more than the ${size} bytes stated`, {
        file: name,
        offset: size,
      });
    while (kept.length > 1 && at - kept[1]!.start > KEPT_BYTES) kept.shift();
  };
  const read = async (start: number, end: number, signal?: AbortSignal) => {
    checkRange({ name, size }, start, end);
    const out = new Uint8Array(end - start);
    if (reader === null || start < (kept[0]?.start ?? at)) await restart();
    let filled = start;
    while (filled < end) {
      throwIfAborted(signal);
      for (const piece of kept) {
        const pieceEnd = piece.start + piece.bytes.length;
        if (pieceEnd <= filled || piece.start >= end) continue;
        const to = Math.min(end, pieceEnd);
        out.set(piece.bytes.subarray(filled - piece.start, to - piece.start), filled - start);
        filled = to;
      }
      if (filled < end) await nextPiece();
    }
    return out;
  };
  let queue: Promise<unknown> = Promise.resolve();
  return {
    name,
    size,
    read(start, end, signal) {
      const mine = queue.then(() => read(start, end, signal));
      queue = mine.catch(() => undefined);
      return mine;
    },
  };
}
