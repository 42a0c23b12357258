import type { FileHandle } from 'node:fs/promises';
import { open, rename, rm } from 'node:fs/promises';
import { basename } from 'node:path';
import type { ImageSink } from '@/core/bytes/image-sink';
import { toEternoError } from '@/core/errors';
import { handleSource } from './file-source';

/** An image on its way to a path: written beside it under a temporary name, moved there only by `commit`. */
export interface FileSink extends ImageSink {
  /** Flushes and puts the file in its place. */
  commit(): Promise<void>;
  /** Throws the temporary file away; harmless after `commit`. */
  discard(): Promise<void>;
}

let counter = 0;

export function fileSink(path: string): FileSink {
  const temporary = `${path}.${process.pid}-${(counter += 1)}.part`;
  let handle: FileHandle | null = null;
  let size = 0;
  /** Whether a temporary file lies there. */
  let there = false;
  const opened = async () => {
    handle ??= await open(/*turbopackIgnore: true*/ temporary, 'w+').catch(asIo);
    there = true;
    return handle;
  };
  return {
    async begin(sizeBytes) {
      size = sizeBytes;
      await (await opened()).truncate(sizeBytes).catch(asIo);
    },
    async writeAt(offset, bytes) {
      const file = await opened();
      for (let at = 0; at < bytes.length;)
        at += (await file.write(bytes, at, bytes.length - at, offset + at).catch(asIo)).bytesWritten;
    },
    readBack: async () => handleSource(await opened(), size, basename(path)),
    async commit() {
      const file = await opened();
      await file.sync().catch(asIo);
      await file.close();
      handle = null;
      await rename(/*turbopackIgnore: true*/ temporary, path).catch(asIo);
      there = false;
    },
    async discard() {
      await handle?.close().catch(() => undefined);
      handle = null;
      if (there) await rm(/*turbopackIgnore: true*/ temporary, { force: true });
      there = false;
    },
  };
}

function asIo(thrown: unknown): never {
  throw toEternoError(thrown, 'io');
}

/** Writes a whole file so that it is there complete or not at all. */
export async function writeFileWhole(path: string, bytes: Uint8Array): Promise<void> {
  const sink = fileSink(path);
  try {
    await sink.begin(bytes.length);
    await sink.writeAt(0, bytes);
    await sink.commit();
  } finally {
    await sink.discard();
  }
}
