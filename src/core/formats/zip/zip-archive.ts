import { EternoError } from '../../errors';
import type { ByteSource } from '../../bytes/byte-source';

/** One entry as the archive's directory lists it. Sizes in bytes. */
export interface ZipEntry {
  readonly name: string;
  readonly directory: boolean;
  readonly method: 'stored' | 'deflated' | 'other';
  readonly compressedSize: number;
  readonly size: number;
  readonly crc32: number;
  /** Offset of the entry's local header in the archive's file. */
  readonly headerOffset: number;
  readonly encrypted: boolean;
}

/** A file's bytes, and what is stated of them. */
export interface CheckedSource {
  readonly source: ByteSource;
  /**
   * Holds the whole against the checksum stated for it; call it when all of it was taken.
   * @throws {EternoError} `bad-hash`
   */
  check(signal?: AbortSignal): Promise<void>;
}

export interface ZipArchive {
  readonly entries: readonly ZipEntry[];
  /**
   * The stored entry as a source of its own, so that any range of it can be read in place.
   * @throws {EternoError} `unsupported` when it is not stored
   */
  openStored(entry: ZipEntry): Promise<ByteSource>;
  /**
   * Any entry as a source, its CRC-32 to be checked at the end. A deflated one is unpacked in memory, or,
   * past `LIMITS.unpackedEntryBytes`, front to back as it is read and again from its start where a read goes
   * back.
   */
  openEntry(entry: ZipEntry, signal?: AbortSignal): Promise<CheckedSource>;
  /**
   * The whole entry, unpacked and its CRC-32 checked.
   * @throws {EternoError} `too-large`, `bad-hash`, `corrupt`
   */
  readEntry(entry: ZipEntry, limitBytes: number): Promise<Uint8Array<ArrayBuffer>>;
}

/**
 * Port: opens an archive over a source, reading only its directory.
 * @throws {EternoError} `bad-magic`, `truncated`, `corrupt`
 */
export type OpenZip = (source: ByteSource, signal?: AbortSignal) => Promise<ZipArchive>;

/**
 * The one entry of a name, or null.
 * @throws {EternoError} `duplicate` where the archive lists it more than once
 */
export function findEntry(archive: ZipArchive, name: string): ZipEntry | null {
  const found = archive.entries.filter((entry) => entry.name === name && !entry.directory);
  if (found.length > 1)
    throw new EternoError('duplicate', `the archive lists "${name}" ${found.length} times`);
  return found[0] ?? null;
}
