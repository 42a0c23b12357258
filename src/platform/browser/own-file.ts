import type { ByteSource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { blobSource } from './blob-source';

/*
 * A file of the page's own, on the disk and apart from the person's files: what is too large for memory is written
 * there, read back, and handed out as a download.
 */

export interface OwnFile {
  write(bytes: Uint8Array): Promise<void>;
  readBack(): Promise<ByteSource>;
  /** As it was written; after `readBack`. */
  file(): Promise<File>;
  discard(): Promise<void>;
}

const noRoom = (name: string, cause: unknown) =>
  new EternoError('io', 'The browser has no room, or no place, for a file of this size.', {
    file: name,
    cause,
  });

/**
 * @param name of the one file; another of the same name is written over
 * @throws {EternoError} `io` where the browser gives no such place, or it is full
 */
export async function ownFile(name: string): Promise<OwnFile> {
  try {
    const folder = await navigator.storage.getDirectory();
    const handle = await folder.getFileHandle(name, { create: true });
    const stream = await handle.createWritable();
    return {
      async write(bytes) {
        await stream.write(bytes as Uint8Array<ArrayBuffer>).catch((thrown: unknown) => {
          throw noRoom(name, thrown);
        });
      },
      async readBack() {
        await stream.close().catch((thrown: unknown) => {
          throw noRoom(name, thrown);
        });
        return blobSource(await handle.getFile(), name);
      },
      file: () => handle.getFile(),
      async discard() {
        await stream.abort().catch(() => undefined);
        await folder.removeEntry(name).catch(() => undefined);
      },
    };
  } catch (thrown) {
    throw noRoom(name, thrown);
  }
}
