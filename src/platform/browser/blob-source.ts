import type { ByteSource } from '@/core/bytes/byte-source';
import { checkRange } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted } from '@/core/errors';

/** A file the person chose, read in place: only the ranges asked for ever leave the disk. */
export function blobSource(blob: Blob, name: string): ByteSource {
  return {
    name,
    size: blob.size,
    async read(start, end, signal) {
      throwIfAborted(signal);
      checkRange({ name, size: blob.size }, start, end);
      try {
        return new Uint8Array(await blob.slice(start, end).arrayBuffer());
      } catch (thrown) {
        throw new EternoError('io', 'the file can no longer be read; it was moved or changed', {
          file: name,
          offset: start,
          cause: thrown,
        });
      }
    },
  };
}
