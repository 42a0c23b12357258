import type { ByteSource } from './byte-source';
import { memorySource } from './byte-source';
import { EternoError } from '../errors';
import { LIMITS } from '../limits';

/** Takes an image's bytes at any offset; what is never written reads as zeros. */
export interface ImageSink {
  /** Sets the size; called once, before any write. */
  begin(sizeBytes: number): Promise<void>;
  writeAt(offset: number, bytes: Uint8Array): Promise<void>;
  /** What was written, read back from where it lies. */
  readBack(): Promise<ByteSource>;
  /** Where it all lies in memory: that. */
  readonly bytes?: Uint8Array<ArrayBuffer>;
}

export interface MemorySink extends ImageSink {
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** @throws {EternoError} `too-large` past the limit of images held in memory */
export function memorySink(name: string): MemorySink {
  let bytes = new Uint8Array(0);
  return {
    get bytes() {
      return bytes;
    },
    async begin(size) {
      if (size > LIMITS.imageBytes)
        throw new EternoError(
          'too-large',
          `an image of ${size} bytes does not fit in memory here; use the command`,
          { file: name },
        );
      bytes = new Uint8Array(size);
    },
    async writeAt(offset, part) {
      bytes.set(part, offset);
    },
    async readBack() {
      return memorySource(bytes, name);
    },
  };
}
