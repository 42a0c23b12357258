import type { FileHandle } from 'node:fs/promises';
import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import type { ByteSource } from '@/core/bytes/byte-source';
import { checkRange } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';

export interface FileSource extends ByteSource {
  close(): Promise<void>;
}

/** An open file's bytes; one handle, any number of reads. @throws {EternoError} `truncated`, `io` */
export function handleSource(handle: FileHandle, size: number, name: string): ByteSource {
  return {
    name,
    size,
    async read(start, end, signal) {
      throwIfAborted(signal);
      checkRange({ name, size }, start, end);
      const bytes = new Uint8Array(end - start);
      let at = 0;
      while (at < bytes.length) {
        const { bytesRead } = await handle
          .read(bytes, at, bytes.length - at, start + at)
          .catch((thrown: unknown) => {
            throw toEternoError(thrown, 'io').inFile(name);
          });
        if (bytesRead === 0)
          throw new EternoError('truncated', 'the file became shorter while it was read', {
            file: name,
            offset: start + at,
          });
        at += bytesRead;
      }
      return bytes;
    },
  };
}

/** @throws {EternoError} `not-found`, `io` */
export async function openFile(path: string): Promise<FileSource> {
  const name = basename(path);
  let handle: FileHandle;
  try {
    handle = await open(/*turbopackIgnore: true*/ path, 'r');
  } catch (thrown) {
    throw openError(thrown, name);
  }
  const stat = await handle.stat();
  if (!stat.isFile()) {
    await handle.close();
    throw new EternoError('bad-field', 'this is no file', { file: name });
  }
  return { ...handleSource(handle, stat.size, name), close: () => handle.close() };
}

function openError(thrown: unknown, file: string): EternoError {
  const missing = (thrown as NodeJS.ErrnoException).code === 'ENOENT';
  return new EternoError(
    missing ? 'not-found' : 'io',
    missing ? 'there is no such file' : (thrown as Error).message,
    { file, cause: thrown },
  );
}
