/** Unpacks an lzma-alone stream: header, then data. Throws plain errors. */
export function decompress(data: Uint8Array): Uint8Array;
/** Packs into an lzma-alone stream that states its size; the same bytes for the same input. @param mode 1 to 9 */
export function compress(data: Uint8Array, mode: 1 | 2 | 3 | 4 | 5 | 6 | 7 | 8 | 9): Uint8Array;
