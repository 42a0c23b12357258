import { ByteCursor } from '../../bytes/byte-cursor';
import type { ByteSource } from '../../bytes/byte-source';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/*
 * The end of an archive (docs/formats.md, "ZIP"), little-endian. End record: u32 PK 05 06 · u16 disk · u16
 * disk of the directory · u16 entries here · u16 entries · u32 directory size · u32 directory offset · u16
 * comment length · comment. With ZIP64 a locator of 20 bytes stands before it (u32 PK 06 07 · u32 · u64
 * offset of the 64-bit record · u32), and the 64-bit record (u32 PK 06 06 · u64 size of what follows · 16
 * bytes · u64 entries here · u64 entries · u64 directory size · u64 directory offset) says what does not fit.
 */

const END = 0x06054b50;
const END_BYTES = 22;
const LONGEST_COMMENT = 0xffff;
const LOCATOR = 0x07064b50;
const LOCATOR_BYTES = 20;
const END64 = 0x06064b50;
const END64_BYTES = 56;
const ENTRY = 0x02014b50;
const ENTRY_BYTES = 46;
const LOCAL = 0x04034b50;

interface Directory {
  /** Where it ends in the file: where the record that speaks of it begins. */
  readonly end: number;
  readonly size: number;
  /** As the record states it; leading bytes shift it. */
  readonly offset: number;
  readonly entries: number;
}

type Found = Directory | { readonly wrong: string; readonly at: number };

async function cursorAt(
  source: ByteSource,
  start: number,
  bytes: number,
  signal?: AbortSignal,
): Promise<ByteCursor | null> {
  if (start < 0 || start + bytes > source.size) return null;
  return new ByteCursor(await source.read(start, start + bytes, signal), 0, source.name, start);
}

/** What an end record at `at` says, with its 64-bit brother where it has one. */
async function directoryAt(source: ByteSource, at: number, signal?: AbortSignal): Promise<Found> {
  const record = (await cursorAt(source, at, END_BYTES, signal))!;
  record.skip(10);
  const [entries, size, offset] = [record.u16le(), record.u32le(), record.u32le()];
  if (entries !== 0xffff && size !== 0xffffffff && offset !== 0xffffffff)
    return { end: at, entries, size, offset };
  const locator = await cursorAt(source, at - LOCATOR_BYTES, LOCATOR_BYTES, signal);
  // a full classic record without a locator is one of exactly these values
  if (!locator || locator.u32le() !== LOCATOR) return { end: at, entries, size, offset };
  locator.skip(4);
  const stated = locator.u64le();
  for (const start of [stated, at - LOCATOR_BYTES - END64_BYTES]) {
    const wide = await cursorAt(source, start, END64_BYTES, signal);
    if (!wide || wide.u32le() !== END64) continue;
    const end = start + 12 + wide.u64le();
    // leading bytes may put another place there
    if (end !== at - LOCATOR_BYTES) continue;
    wide.skip(20);
    return { end: start, entries: wide.u64le(), size: wide.u64le(), offset: wide.u64le() };
  }
  return { wrong: 'its 64-bit end record is not where it is said to be', at: at - LOCATOR_BYTES };
}

/**
 * Why a directory can't be the archive's; null where it is. Its entries are walked, and the first of them in
 * the file is looked at.
 */
async function whyNot(
  source: ByteSource,
  { end, size, offset, entries }: Directory,
  signal?: AbortSignal,
): Promise<string | null> {
  const start = end - size;
  const shift = start - offset;
  if (start < 0) return 'its directory is said to be longer than the file';
  if (shift < 0) return 'its directory is said to lie behind where it ends';
  if (size > LIMITS.zipDirectoryBytes)
    throw new EternoError('too-large', `a directory of ${size} bytes`, { file: source.name, offset: start });
  if (entries > LIMITS.zipEntries)
    throw new EternoError('too-large', `the archive lists more than ${LIMITS.zipEntries} entries`, {
      file: source.name,
      offset: end,
    });
  const bytes = await source.read(start, end, signal);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let [at, count, first] = [0, 0, Number.POSITIVE_INFINITY];
  while (at + ENTRY_BYTES <= size && view.getUint32(at, true) === ENTRY) {
    const local = view.getUint32(at + 42, true);
    if (local !== 0xffffffff) first = Math.min(first, local);
    at +=
      ENTRY_BYTES +
      view.getUint16(at + 28, true) +
      view.getUint16(at + 30, true) +
      view.getUint16(at + 32, true);
    count += 1;
  }
  if (count !== entries || at !== size)
    return `its directory does not hold the ${entries} entries that it is said to hold`;
  if (first === Number.POSITIVE_INFINITY) return null;
  const header = await cursorAt(source, first + shift, 4, signal);
  return header?.u32le() === LOCAL ? null : 'its entries are not where its directory says';
}

/**
 * Finds the archive's end record and checks that its directory lies where it says; bytes before the archive
 * may shift all of it alike. Of several that fit the first whose comment reaches to the end of the file
 * counts: a comment may hold another archive, or only its end.
 * @returns where the record ends, its comment left out; null where there is no end record at all, which is
 *   left to the reader
 * @throws {EternoError} `bad-field`, `truncated` where the directory reaches past the end, `too-large`
 */
export async function findEndRecord(source: ByteSource, signal?: AbortSignal): Promise<number | null> {
  const from = Math.max(0, source.size - END_BYTES - LONGEST_COMMENT);
  const tail = await source.read(from, source.size, signal);
  const view = new DataView(tail.buffer, tail.byteOffset, tail.length);
  let [problem, empty, behind]: [EternoError | null, number | null, number | null] = [null, null, null];
  for (let at = 0; at + END_BYTES <= tail.length; at += 1) {
    if (view.getUint32(at, true) !== END) continue;
    const end = at + END_BYTES + view.getUint16(at + 20, true);
    if (end > tail.length) continue;
    const found = await directoryAt(source, from + at, signal);
    const why = 'wrong' in found ? found.wrong : await whyNot(source, found, signal);
    const past = !('wrong' in found) && found.offset + found.size > source.size;
    if (why !== null)
      problem = new EternoError(
        past ? 'truncated' : 'bad-field',
        `the archive’s end record is wrong: ${why}`,
        {
          file: source.name,
          offset: from + at,
        },
      );
    else if ('wrong' in found || found.entries === 0) empty = from + at + END_BYTES;
    else if (end === tail.length) return from + at + END_BYTES;
    else behind = from + at + END_BYTES;
  }
  // bytes behind the comment, and archives of nothing, only where nothing better is there
  const end = behind ?? empty;
  if (end === null && problem) throw problem;
  return end;
}

/**
 * An archive as it ends with its record, without the comment: whatever a reader looks for there, it finds
 * this one.
 */
export function withoutComment(source: ByteSource, end: number): ByteSource {
  const lengthAt = end - 2;
  return {
    name: source.name,
    size: end,
    async read(start, stop, signal) {
      const bytes = await source.read(start, stop, signal);
      if (stop <= lengthAt || start >= end) return bytes;
      const plain = bytes.slice();
      for (let at = Math.max(start, lengthAt); at < Math.min(stop, end); at += 1) plain[at - start] = 0;
      return plain;
    },
  };
}
