import type * as LzmaPackage from 'node-liblzma/wasm';
import { concatBytes } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';

/* xz by liblzma in WebAssembly (docs/formats.md, "Compressed streams"). */

type Lzma = typeof LzmaPackage;
/** Loads the WebAssembly where its own way does not work. */
export type XzModuleLoader = NonNullable<Parameters<Lzma['initModule']>[0]>;

/** What a stream may ask for while it is unpacked: its largest dictionary is 64 MiB in every common writer. */
const MEMORY_BYTES = 128 * 1024 * 1024;
/** As much goes in, and comes out, at a time: a stream may be larger than the memory that there is for it. */
const PIECE_BYTES = 2 * 1024 * 1024;

/** The package's own start of a decoder passes a big integer where this build of it takes two halves. */
interface Halves {
  _lzma_stream_decoder(stream: number, memoryLow: number, memoryHigh: number, flags: number): number;
}

/**
 * Unpacks one stream.
 * @throws {EternoError} `truncated`, `corrupt`, `unsupported` (a filter that is not known), `too-large`
 */
export async function decodeXz(
  input: Uint8Array,
  limitBytes: number,
  loadModule: XzModuleLoader | undefined,
): Promise<Uint8Array<ArrayBuffer>> {
  const lzma = await import('node-liblzma/wasm');
  const wasm = await lzma.initModule(loadModule);
  const stream = new lzma.WasmLzmaStream(wasm);
  const packed = wasm._malloc(Math.max(1, Math.min(PIECE_BYTES, input.length)));
  // one byte more than is allowed shows that there is more
  const room = Math.min(PIECE_BYTES, limitBytes + 1);
  const piece = wasm._malloc(room);
  try {
    const begun = (wasm as unknown as Halves)._lzma_stream_decoder(stream.ptr, MEMORY_BYTES, 0, 0);
    if (begun !== lzma.LZMA_OK || piece === 0 || packed === 0)
      throw new EternoError('internal', 'xz: no memory is left');
    let taken = 0;
    const parts: Uint8Array<ArrayBuffer>[] = [];
    for (let total = 0; ;) {
      if (stream.availIn === 0 && taken < input.length) {
        const next = input.subarray(taken, taken + PIECE_BYTES);
        wasm.HEAPU8.set(next, packed);
        stream.setInput(packed, next.length);
        taken += next.length;
      }
      stream.setOutput(piece, room);
      const last = taken === input.length && stream.availIn === 0;
      const status = lzma.code(stream, last ? lzma.LZMA_FINISH : lzma.LZMA_RUN);
      const bytes = room - stream.availOut;
      total += bytes;
      if (total > limitBytes)
        throw new EternoError('too-large', `the xz stream unpacks to more than ${limitBytes} bytes`);
      if (bytes > 0) parts.push(new Uint8Array(lzma.copyFromWasm(wasm, piece, bytes).buffer as ArrayBuffer));
      if (status === lzma.LZMA_STREAM_END) return parts.length === 1 ? parts[0]! : concatBytes(parts);
      if (status !== lzma.LZMA_OK) throw faultOf(lzma, status, taken - stream.availIn);
    }
  } finally {
    lzma.end(stream);
    stream.free();
    wasm._free(packed);
    wasm._free(piece);
  }
}

function faultOf(lzma: Lzma, status: number, offset: number): EternoError {
  switch (status) {
    case lzma.LZMA_BUF_ERROR:
      return new EternoError('truncated', 'the xz stream is cut off', { offset });
    case lzma.LZMA_MEMLIMIT_ERROR:
    case lzma.LZMA_MEM_ERROR:
      return new EternoError('too-large', `xz: it needs more than ${MEMORY_BYTES} bytes of memory`, {
        offset,
      });
    case lzma.LZMA_OPTIONS_ERROR:
      return new EternoError('unsupported', 'xz: it is packed in a way that is not known here', { offset });
    default:
      return new EternoError('corrupt', 'xz: the stream is damaged', { offset });
  }
}

/** Packs into one stream with the check that kernels read. */
export async function encodeXz(
  bytes: Uint8Array,
  preset: number,
  loadModule: XzModuleLoader | undefined,
): Promise<Uint8Array<ArrayBuffer>> {
  const lzma = await import('node-liblzma/wasm');
  await lzma.initModule(loadModule);
  return new Uint8Array(await lzma.xzAsync(bytes, { preset, check: lzma.LZMA_CHECK_CRC32 }));
}
