import type * as Zstd from '@bokuweb/zstd-wasm';
import { createXXHash32 } from 'hash-wasm';
import {
  gzip,
  ZStream,
  zlibInflate,
  zlibInflateInit2,
  Z_NO_FLUSH,
  Z_OK,
  Z_BUF_ERROR,
  Z_STREAM_END,
} from 'pako';
import type { Codecs, Decoded } from '@/core/codecs/codec';
import type { Xxh32 } from '@/core/codecs/lz4-frame';
import { decodeLz4Frame, encodeLz4Frame } from '@/core/codecs/lz4-frame';
import { decodeLz4Legacy, encodeLz4Legacy } from '@/core/codecs/lz4-legacy';
import { EternoError } from '@/core/errors';
import { xzStreamBytes, zstdFrameBytes } from '@/core/codecs/stream-end';
import { concatBytes } from '@/core/bytes/bytes';
import { decodeLzma, encodeLzma } from './lzma';
import type { XzModuleLoader } from './xz';
import { decodeXz, encodeXz } from './xz';

/** What the browser and Node do differently. */
export interface CodecParts {
  readonly loadXzModule?: XzModuleLoader;
  /** Unpacks brotli; it may throw anything. */
  readonly brotli: (input: Uint8Array, limitBytes: number) => Promise<Uint8Array>;
}

/** The codecs of the core's port, from packages that run in the browser and in Node alike. */
export function createCodecs({ loadXzModule, brotli }: CodecParts): Codecs {
  return {
    width: 1,
    async decode(name, input, limitBytes) {
      switch (name) {
        case 'gzip':
          return decodeGzip(input, limitBytes);
        case 'lz4-legacy':
          return decodeLz4Legacy(input, limitBytes);
        case 'lz4-frame':
          return decodeLz4Frame(input, limitBytes, await xxh32());
        case 'xz':
          return oneStream(input, xzStreamBytes(input), (stream) =>
            decodeXz(stream, limitBytes, loadXzModule),
          );
        case 'lzma':
          return { bytes: decodeLzma(input, limitBytes), consumed: input.length };
        case 'bzip2':
          return decodeBzip2(input, limitBytes);
        case 'zstd':
          return oneStream(input, zstdFrameBytes(input), (stream) => decodeZstd(stream, limitBytes));
        case 'brotli':
          return { bytes: await decodeBrotli(brotli, input, limitBytes), consumed: input.length };
      }
    },
    async encode(name, bytes, strong = false) {
      switch (name) {
        case 'gzip':
          return gzip(bytes, { level: 9 }) as Uint8Array<ArrayBuffer>;
        case 'lz4-legacy':
          return encodeLz4Legacy(bytes, strong ? 64 : 8);
        case 'lz4-frame':
          return encodeLz4Frame(bytes, strong ? 64 : 8, await xxh32());
        case 'xz':
          return encodeXz(bytes, strong ? 6 : 1, loadXzModule);
        case 'lzma':
          return encodeLzma(bytes, strong);
        case 'zstd':
          return encodeZstd(bytes, strong ? 19 : 9);
        default:
          throw new EternoError('unsupported', `${name} can be read but not written here`);
      }
    },
  };
}

let zstdPacker: Promise<typeof Zstd> | null = null;
/** One frame that states its content's size and has no checksum. @param level 1 to 22 */
async function encodeZstd(bytes: Uint8Array, level: number): Promise<Uint8Array<ArrayBuffer>> {
  zstdPacker ??= import('@bokuweb/zstd-wasm').then(async (zstd) => {
    await zstd.init();
    return zstd;
  });
  return new Uint8Array((await zstdPacker).compress(bytes, level));
}

/** XXH32 with seed 0; loaded once. */
async function xxh32(): Promise<Xxh32> {
  const hasher = await createXXHash32(0);
  return (bytes) => {
    const digest = hasher.init().update(bytes).digest('binary');
    return new DataView(digest.buffer, digest.byteOffset).getUint32(0);
  };
}

/**
 * Unpacks the one stream that ends at `end`, or all there is where the end can't be told: the decoder then
 * says what is wrong.
 */
async function oneStream(
  input: Uint8Array,
  end: number | null,
  decode: (stream: Uint8Array) => Promise<Uint8Array<ArrayBuffer>>,
): Promise<Decoded> {
  const consumed = end ?? input.length;
  return { bytes: await decode(input.subarray(0, consumed)), consumed };
}

async function decodeBrotli(
  brotli: CodecParts['brotli'],
  input: Uint8Array,
  limitBytes: number,
): Promise<Uint8Array<ArrayBuffer>> {
  let bytes: Uint8Array;
  try {
    bytes = await brotli(input, limitBytes);
  } catch (thrown) {
    const { code, name, message } = thrown as Error & { code?: string };
    // both platforms name an output that outgrows its buffer as a range error
    if (code === 'ERR_BUFFER_TOO_LARGE' || name === 'RangeError') throw tooLarge('brotli', limitBytes);
    throw new EternoError('corrupt', `brotli: ${message}`, { cause: thrown });
  }
  if (bytes.length > limitBytes) throw tooLarge('brotli', limitBytes);
  return new Uint8Array(bytes.buffer as ArrayBuffer, bytes.byteOffset, bytes.length);
}

const tooLarge = (name: string, limitBytes: number) =>
  new EternoError('too-large', `the ${name} stream unpacks to more than ${limitBytes} bytes`);

function decodeGzip(input: Uint8Array, limitBytes: number): Decoded {
  const stream = new ZStream();
  zlibInflateInit2(stream, 31);
  stream.input = input;
  stream.avail_in = input.length;
  const parts: Uint8Array[] = [];
  let total = 0;
  for (;;) {
    const output = new Uint8Array(Math.min(1 << 20, Math.max(1 << 16, input.length)));
    stream.output = output;
    stream.next_out = 0;
    stream.avail_out = output.length;
    const status = zlibInflate(stream, Z_NO_FLUSH);
    total += stream.next_out;
    if (total > limitBytes) throw tooLarge('gzip', limitBytes);
    parts.push(output.subarray(0, stream.next_out));
    if (status === Z_STREAM_END) return { bytes: concatBytes(parts), consumed: stream.next_in };
    if (status !== Z_OK && status !== Z_BUF_ERROR)
      throw new EternoError('corrupt', `gzip: ${stream.msg || 'bad data'}`, { offset: stream.next_in });
    if (stream.avail_in === 0 && stream.avail_out > 0)
      throw new EternoError('truncated', 'the gzip stream is cut off', { offset: input.length });
  }
}

async function decodeBzip2(input: Uint8Array, limitBytes: number): Promise<Decoded> {
  const { default: bunzip } = await import('seek-bzip');
  const parts: Uint8Array[] = [];
  let total = 0;
  const block = new Uint8Array(1 << 16);
  let fill = 0;
  const flush = () => {
    if (fill > 0) parts.push(block.slice(0, fill));
    fill = 0;
  };
  let at = 0;
  const truncated = () =>
    new EternoError('truncated', 'the bzip2 stream is cut off', { offset: input.length });
  // a stream of our own: the library's end of input is silence, and it does not tell how much it took
  const stream = {
    readByte() {
      if (at >= input.length) throw truncated();
      return input[at++]!;
    },
    read(target: Uint8Array, offset: number, length: number) {
      if (at + length > input.length) throw truncated();
      target.set(input.subarray(at, at + length), offset);
      at += length;
      return length;
    },
  };
  try {
    bunzip.decode(stream, {
      writeByte(byte: number) {
        total += 1;
        if (total > limitBytes) throw tooLarge('bzip2', limitBytes);
        block[fill++] = byte;
        if (fill === block.length) flush();
      },
    });
  } catch (thrown) {
    if (thrown instanceof EternoError) throw thrown;
    throw new EternoError('corrupt', `bzip2: ${thrown instanceof Error ? thrown.message : String(thrown)}`, {
      cause: thrown,
    });
  }
  flush();
  return { bytes: concatBytes(parts), consumed: at };
}

async function decodeZstd(input: Uint8Array, limitBytes: number): Promise<Uint8Array<ArrayBuffer>> {
  const { ZSTDDecoder } = await import('zstddec/stream');
  const decoder = new ZSTDDecoder();
  await decoder.init();
  const parts: Uint8Array[] = [];
  let total = 0;
  let idle = 0;
  try {
    for (const part of decoder.decodeStreaming([input])) {
      // the library goes round for ever on a stream it can't read: no output twice in a row is its way to
      // fail
      idle = part.length === 0 ? idle + 1 : 0;
      if (idle > 1) throw new EternoError('corrupt', 'zstd: bad data');
      total += part.length;
      if (total > limitBytes) throw tooLarge('zstd', limitBytes);
      parts.push(part.slice());
    }
  } catch (thrown) {
    if (thrown instanceof EternoError) throw thrown;
    throw new EternoError('corrupt', `zstd: ${thrown instanceof Error ? thrown.message : String(thrown)}`, {
      cause: thrown,
    });
  }
  return concatBytes(parts);
}
