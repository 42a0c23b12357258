/**
 * Brotli where the browser has none of its own to offer. The library makes room for what a stream claims
 * before it fills it, so a stream made to lie ends in a range error of this worker, not in a page that hangs.
 */
export async function brotli(input: Uint8Array, limitBytes: number): Promise<Uint8Array> {
  const { decompress } = await import('brotli/decompress');
  return decompress(input, Math.min(limitBytes, 1 << 20));
}
