import { Reader } from '@zip.js/zip.js';
import type { ByteSource } from '@/core/bytes/byte-source';

/** The ZIP library's reader over a source: reads past its end are cut, as the library expects. */
export class SourceReader extends Reader<ByteSource> {
  constructor(
    private readonly source: ByteSource,
    private readonly signal?: AbortSignal,
  ) {
    super(source);
    this.size = source.size;
  }
  override async readUint8Array(index: number, length: number): Promise<Uint8Array> {
    const start = Math.max(0, index);
    return this.source.read(start, Math.min(this.source.size, start + length), this.signal);
  }
}
