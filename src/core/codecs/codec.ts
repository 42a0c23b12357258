/** Kinds that a stream can be told to be by its first bytes. */
export type StreamCodec = 'gzip' | 'lz4-legacy' | 'lz4-frame' | 'xz' | 'lzma' | 'bzip2' | 'zstd';
/** All that can be unpacked; brotli has no magic and is named by what holds it. */
export type CodecName = StreamCodec | 'brotli';
export type Compression = 'none' | StreamCodec;

export interface Decoded {
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Bytes of input that the stream took; what follows is not part of it. */
  readonly consumed: number;
}

/** Where codecs come from. All of them run in the browser and in Node and give the same bytes. */
export interface Codecs {
  /** How many calls are worth having under way at once. */
  readonly width: number;
  /**
   * Unpacks the one stream at the start of `input`.
   * @throws {EternoError} `corrupt`, `truncated`, or `too-large` when the output would pass `limitBytes`
   */
  decode(name: CodecName, input: Uint8Array, limitBytes: number): Promise<Decoded>;
  /**
   * Packs bytes, always into the same stream for the same input. `strong` spends more time for a smaller
   * result.
   * @throws {EternoError} `unsupported` where the kind can't be written
   */
  encode(name: CodecName, bytes: Uint8Array, strong?: boolean): Promise<Uint8Array<ArrayBuffer>>;
}

const MAGICS: readonly (readonly [Compression, readonly number[]])[] = [
  ['gzip', [0x1f, 0x8b]],
  ['lz4-legacy', [0x02, 0x21, 0x4c, 0x18]],
  ['lz4-frame', [0x04, 0x22, 0x4d, 0x18]],
  ['xz', [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0x00]],
  ['lzma', [0x5d, 0x00, 0x00]],
  ['bzip2', [0x42, 0x5a, 0x68]],
  ['zstd', [0x28, 0xb5, 0x2f, 0xfd]],
  ['none', [0x30, 0x37, 0x30, 0x37, 0x30]],
];

/**
 * Tells a stream by its first bytes (docs/formats.md, "Compressed streams"); `none` is a bare cpio archive;
 * null where nothing is known.
 */
export function guessCompression(bytes: Uint8Array, at = 0): Compression | null {
  for (const [name, magic] of MAGICS) if (magic.every((byte, i) => bytes[at + i] === byte)) return name;
  return null;
}
