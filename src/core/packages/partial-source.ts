import type { ByteSource } from '../bytes/byte-source';
import { checkRange } from '../bytes/byte-source';
import { EternoError } from '../errors';

/* A package is opened where it lies; what opening it read is enough to open it again elsewhere. */

/** Half-open, in bytes: [start, end). */
export type ByteRange = readonly [number, number];

/** A file of a package, and what opening the package reads of it. */
export interface OpenedFile {
  readonly name: string;
  readonly size: number;
  readonly ranges: readonly ByteRange[];
}

const PAGE_BYTES = 16 * 1024;

/**
 * What to send of a file so that it can be opened elsewhere: the ranges read here in whole pages with one
 * more after each, because an unpacker may read on a little further than it needs.
 * @returns disjoint, in order
 */
export function rangesToSend(read: readonly ByteRange[], sizeBytes: number): ByteRange[] {
  const wanted = read
    .filter(([start, end]) => end > start)
    .map(([start, end]): [number, number] => [
      Math.floor(start / PAGE_BYTES) * PAGE_BYTES,
      Math.min(sizeBytes, (Math.ceil(end / PAGE_BYTES) + 1) * PAGE_BYTES),
    ])
    .sort(([a], [b]) => a - b);
  const joined: [number, number][] = [];
  for (const range of wanted) {
    const last = joined.at(-1);
    if (last && range[0] <= last[1]) last[1] = Math.max(last[1], range[1]);
    else joined.push(range);
  }
  return joined;
}

export const bytesIn = (ranges: readonly ByteRange[]) =>
  ranges.reduce((sum, [start, end]) => sum + end - start, 0);

/**
 * A file of which only these ranges are there.
 * @param bytes those of the ranges, one after the other
 * @throws {EternoError} `bad-field` for ranges that are not in order, overlap, leave the file or do not match
 *   the bytes; its `read` throws
 *   `not-found` for a byte that was not sent
 */
export function partialSource(
  name: string,
  sizeBytes: number,
  ranges: readonly ByteRange[],
  bytes: Uint8Array,
): ByteSource {
  const bad = (what: string) => new EternoError('bad-field', what, { file: name });
  let reached = 0;
  for (const [start, end] of ranges) {
    if (!(
      Number.isSafeInteger(start) &&
      Number.isSafeInteger(end) &&
      start >= reached &&
      end > start &&
      end <= sizeBytes
    ))
      throw bad('the ranges of a file do not stand in order inside it');
    reached = end;
  }
  if (bytesIn(ranges) !== bytes.length)
    throw bad(`${bytes.length} bytes came for ranges of ${bytesIn(ranges)}`);
  return {
    name,
    size: sizeBytes,
    async read(start, end) {
      checkRange({ name, size: sizeBytes }, start, end);
      let at = 0;
      for (const range of ranges) {
        if (start >= range[0] && end <= range[1])
          return bytes.slice(at + start - range[0], at + end - range[0]);
        at += range[1] - range[0];
      }
      if (start === end) return new Uint8Array(0);
      throw new EternoError('not-found', 'these bytes of the file were not sent', {
        file: name,
        offset: start,
      });
    },
  };
}
