import { configure, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';

configure({ useWebWorkers: false });

export interface ZipMember {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Stored members can be read in place. */
  readonly stored: boolean;
}

/** One date for every member, so that the same members always give the same archive. */
const FIXED_DATE = new Date(2026, 0, 1, 0, 0, 0);

/** Writes an archive's bytes, in order, to `write`. */
export async function writeZip(members: readonly ZipMember[], write: (bytes: Uint8Array) => Promise<void>): Promise<void> {
  const zip = new ZipWriter(new WritableStream<Uint8Array>({ write }), { extendedTimestamp: false, keepOrder: true });
  for (const { name, bytes, stored } of members) {
    await zip.add(name, new Uint8ArrayReader(bytes as Uint8Array<ArrayBuffer>), { level: stored ? 0 : 9, lastModDate: FIXED_DATE });
  }
  await zip.close();
}
