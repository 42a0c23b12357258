import type { Codecs, Compression } from '../../codecs/codec';
import { guessCompression } from '../../codecs/codec';
import { concatBytes, isZero } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import { splitPartHeader } from '../../bytes/part-header';
import type { CpioArchive } from './cpio-archive';
import { archiveBytes, readCpioArchive } from './cpio-archive';

/** A run of bytes in an unpacked stream: an archive and the zeros behind it. */
export interface ArchiveInStream {
  readonly archive: CpioArchive;
  /** What stands between this archive and the next, or the stream's end: padding. */
  readonly padding: Uint8Array;
}

export interface RamdiskStream {
  readonly compression: Compression;
  /** Zeros before the first archive of the unpacked stream. */
  readonly lead: Uint8Array;
  readonly archives: readonly ArchiveInStream[];
  /** The stream as it stands in the section, compressed. */
  readonly packed: Uint8Array;
  /** Padding behind it in the section. */
  readonly padding: Uint8Array;
  readonly unpackedSize: number;
}

/** A ramdisk section taken apart; the pieces put together again are the section, byte for byte. */
export interface Ramdisk {
  /** A maker's part header before it; empty where there is none. */
  readonly header: Uint8Array;
  readonly lead: Uint8Array;
  readonly streams: readonly RamdiskStream[];
}

function zeroRun(bytes: Uint8Array, at: number): number {
  let end = at;
  while (end < bytes.length && bytes[end] === 0) end += 1;
  return end;
}

/**
 * Reads the archives that stand one after another in unpacked bytes, until something else than an archive or
 * zeros.
 */
function readArchives(
  bytes: Uint8Array,
  whole: boolean,
): { lead: Uint8Array; archives: ArchiveInStream[]; end: number } {
  let at = zeroRun(bytes, 0);
  const lead = bytes.subarray(0, at);
  const archives: ArchiveInStream[] = [];
  while (at < bytes.length) {
    if (guessCompression(bytes, at) !== 'none') {
      if (!whole && archives.length > 0) break;
      throw new EternoError(
        'bad-field',
        archives.length === 0
          ? 'the ramdisk does not begin with an archive'
          : 'something that is no archive stands behind one',
        { offset: at },
      );
    }
    if (archives.length >= LIMITS.ramdiskArchives)
      throw new EternoError('too-large', `more than ${LIMITS.ramdiskArchives} archives in one ramdisk`, {
        offset: at,
      });
    const { archive, end } = readCpioArchive(bytes, at);
    at = zeroRun(bytes, end);
    archives.push({ archive, padding: bytes.subarray(end, at) });
  }
  return { lead, archives, end: at };
}

/**
 * Takes a ramdisk section apart: one or more streams, each perhaps compressed, each with one or more
 * archives.
 * @throws {EternoError} `unsupported` kind, `corrupt` stream, `truncated`, `bad-field`, `too-large`; offsets
 *   count behind a part header or in the unpacked stream
 */
export async function readRamdisk(packed: Uint8Array, codecs: Codecs): Promise<Ramdisk> {
  const { header, body: section } = splitPartHeader(packed);
  let at = zeroRun(section, 0);
  const lead = section.subarray(0, at);
  const streams: RamdiskStream[] = [];
  let unpackedTotal = 0;
  while (at < section.length) {
    if (streams.length >= LIMITS.ramdiskStreams)
      throw new EternoError('too-large', `more than ${LIMITS.ramdiskStreams} streams in one ramdisk`, {
        offset: at,
      });
    const compression = guessCompression(section, at);
    if (compression === null) {
      const where = streams.length === 0 ? 'the ramdisk begins with' : 'behind an archive stands';
      throw new EternoError(
        'bad-field',
        `${where} something that is neither an archive nor a known compressed stream`,
        { offset: at },
      );
    }
    const rest = section.subarray(at);
    let stream: RamdiskStream;
    if (compression === 'none') {
      const { lead: inner, archives, end } = readArchives(rest, false);
      const last = archives.at(-1)!;
      const packedEnd = end - last.padding.length;
      stream = {
        compression,
        lead: inner,
        archives: [...archives.slice(0, -1), { ...last, padding: new Uint8Array(0) }],
        packed: rest.subarray(0, packedEnd),
        padding: rest.subarray(packedEnd, end),
        unpackedSize: packedEnd,
      };
    } else {
      const { bytes, consumed } = await codecs.decode(compression, rest, LIMITS.ramdiskBytes - unpackedTotal);
      const { lead: inner, archives } = readArchives(bytes, true);
      stream = {
        compression,
        lead: inner,
        archives,
        packed: rest.subarray(0, consumed),
        padding: rest.subarray(consumed, zeroRun(rest, consumed)),
        unpackedSize: bytes.length,
      };
    }
    unpackedTotal += stream.unpackedSize;
    streams.push(stream);
    at += stream.packed.length + stream.padding.length;
  }
  if (streams.length === 0)
    throw new EternoError(
      'bad-field',
      isZero(section) ? 'the ramdisk holds only zeros' : 'the ramdisk is empty',
      { offset: 0 },
    );
  if (streams.every((stream) => stream.archives.length === 0))
    throw new EternoError('bad-field', 'the ramdisk holds no archive', { offset: 0 });
  return { header, lead, streams };
}

/** The archives of all streams in the order the kernel unpacks them. */
export function archivesOf(ramdisk: Ramdisk): CpioArchive[] {
  return ramdisk.streams.flatMap((stream) => stream.archives.map((item) => item.archive));
}

export function compressionOf(ramdisk: Ramdisk): Compression | 'mixed' {
  const kinds = new Set(ramdisk.streams.map((stream) => stream.compression));
  return kinds.size === 1 ? [...kinds][0]! : 'mixed';
}

/** The unpacked bytes of a stream as its archives now stand. */
export function streamBytes(stream: Pick<RamdiskStream, 'lead' | 'archives'>): Uint8Array<ArrayBuffer> {
  return concatBytes([
    stream.lead,
    ...stream.archives.flatMap((item) => [archiveBytes(item.archive), item.padding]),
  ]);
}
