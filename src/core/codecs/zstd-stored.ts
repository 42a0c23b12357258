/*
 * A zstd frame of stored blocks (docs/formats.md, "Compressed streams"): magic, a header that states the content's
 * size and no checksum, then blocks of at most 128 KiB as they are. It takes a few bytes more than its content, and
 * every decoder reads it.
 */

const MAGIC = 0xfd2fb528;
/** One segment, its size in four bytes. */
const DESCRIPTOR = 0b1010_0000;
const HEADER_BYTES = 9;
const BLOCK_BYTES = 128 * 1024;
const BLOCK_HEADER_BYTES = 3;

export function encodeZstdStored(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const blocks = Math.max(1, Math.ceil(bytes.length / BLOCK_BYTES));
  const out = new Uint8Array(HEADER_BYTES + blocks * BLOCK_HEADER_BYTES + bytes.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint8(4, DESCRIPTOR);
  view.setUint32(5, bytes.length, true);
  let at = HEADER_BYTES;
  for (let block = 0; block < blocks; block += 1) {
    const piece = bytes.subarray(block * BLOCK_BYTES, (block + 1) * BLOCK_BYTES);
    const header = (piece.length << 3) | (block === blocks - 1 ? 1 : 0);
    view.setUint16(at, header & 0xffff, true);
    view.setUint8(at + 2, header >>> 16);
    out.set(piece, at + BLOCK_HEADER_BYTES);
    at += BLOCK_HEADER_BYTES + piece.length;
  }
  return out;
}
