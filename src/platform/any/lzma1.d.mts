/** Unpacks an lzma-alone stream: header, then data. Throws plain errors. */
export function decompress(data: Uint8Array): Uint8Array;
