import { configure, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import type { ByteSource } from '@/core/bytes/byte-source';
import { SourceReader } from './source-reader';

configure({ useWebWorkers: false });

export interface ZipMember {
  readonly name: string;
  /** Bytes, or a source that is read piece by piece as it is written. */
  readonly bytes: Uint8Array | ByteSource;
  /** Stored members can be read in place. */
  readonly stored: boolean;
}

/** One date for every member, so that the same members always give the same archive. */
const FIXED_DATE = new Date(2026, 0, 1, 0, 0, 0);

/** Writes an archive's bytes, in order, to `write`; ZIP64 where it is needed. */
export async function writeZip(
  members: Iterable<ZipMember> | AsyncIterable<ZipMember>,
  write: (bytes: Uint8Array) => Promise<void>,
): Promise<void> {
  const zip = new ZipWriter(new WritableStream<Uint8Array>({ write }), {
    extendedTimestamp: false,
    keepOrder: true,
  });
  for await (const { name, bytes, stored } of members) {
    const reader =
      bytes instanceof Uint8Array
        ? new Uint8ArrayReader(bytes as Uint8Array<ArrayBuffer>)
        : new SourceReader(bytes);
    await zip.add(name, reader, { level: stored ? 0 : 9, lastModDate: FIXED_DATE });
  }
  await zip.close();
}
