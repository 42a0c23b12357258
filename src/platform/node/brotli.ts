import { promisify } from 'node:util';
import { brotliDecompress } from 'node:zlib';

const decompress = promisify(brotliDecompress);

/** Brotli by Node itself; the limit holds while it unpacks. */
export async function brotli(input: Uint8Array, limitBytes: number): Promise<Uint8Array> {
  return decompress(input, { maxOutputLength: Math.max(1, limitBytes) });
}
