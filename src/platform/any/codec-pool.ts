import { transfer } from 'comlink';
import type { CodecName, Codecs, Decoded } from '@/core/codecs/codec';
import { concatBytes } from '@/core/bytes/bytes';
import { lz4LegacyBlocks, LZ4_LEGACY_BLOCK_BYTES, LZ4_LEGACY_MAGIC } from '@/core/codecs/lz4-legacy';
import type { Outcome } from '@/core/outcome';
import { settle, unsettle } from '@/core/outcome';

/** What a codec thread answers to. */
export interface CodecThreadApi {
  decode(name: CodecName, input: Uint8Array, limitBytes: number): Promise<Outcome<Decoded>>;
  encode(name: CodecName, bytes: Uint8Array, strong: boolean): Promise<Outcome<Uint8Array>>;
}

export interface CodecThread {
  readonly api: CodecThreadApi;
  /** Rejects when the thread breaks down; its calls would never be answered. */
  readonly broken: Promise<never>;
  /** Told while it has work, so that a process with idle threads can end. */
  busy(working: boolean): void;
}

/** A view that is all of its buffer: sending a part of one would copy the whole of it. */
function whole(bytes: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> {
  return bytes.byteLength === bytes.buffer.byteLength ? bytes : bytes.slice();
}

/** Bytes on their way to a thread: a copy, handed over, so that the caller keeps its own. */
function handOver(bytes: Uint8Array): Uint8Array {
  const copy = bytes.slice();
  return transfer(copy, [copy.buffer]);
}

/** The thread's side: the plain codecs, errors as data. */
export function codecThreadApi(codecs: Codecs): CodecThreadApi {
  return {
    async decode(name, input, limitBytes) {
      const result = await settle(async () => {
        const { bytes, consumed } = await codecs.decode(name, input, limitBytes);
        return { bytes: whole(bytes), consumed };
      });
      return result.ok ? transfer(result, [result.value.bytes.buffer]) : result;
    },
    async encode(name, bytes, strong) {
      const result = await settle(async () => whole(await codecs.encode(name, bytes, strong)));
      return result.ok ? transfer(result, [result.value.buffer]) : result;
    },
  };
}

export interface PooledCodecs extends Codecs {
  /**
   * Starts the threads before they are needed, and has each load its decoder for xz, the one that takes
   * longest.
   */
  warmUp(): Promise<void>;
}

/** Enough that an engine makes its quick code of the decoder. */
const WARM_BYTES = 2 * 1024 * 1024;

/** Less packed input than this is done where it is asked for: sending it would cost more. */
const WORTH_BYTES = 64 * 1024;

/**
 * The same codecs, spread over threads that are started when the first large piece comes. lz4 legacy blocks
 * stand alone, so one stream is packed and unpacked by all threads at once; the bytes are the same as without
 * them.
 */
export function pooledCodecs(inline: Codecs, width: number, start: () => CodecThread): PooledCodecs {
  const threads: { readonly thread: CodecThread; tasks: number }[] = [];
  const run = async <T>(work: (api: CodecThreadApi) => Promise<Outcome<T>>): Promise<T> => {
    let least = threads.reduce<(typeof threads)[number] | null>(
      (best, one) => (best === null || one.tasks < best.tasks ? one : best),
      null,
    );
    if ((least === null || least.tasks > 0) && threads.length < width) {
      least = { thread: start(), tasks: 0 };
      // heard where it matters, by the calls under way
      least.thread.broken.catch(() => undefined);
      threads.push(least);
    }
    const mine = least!;
    mine.tasks += 1;
    mine.thread.busy(true);
    try {
      return unsettle(await Promise.race([work(mine.thread.api), mine.thread.broken]));
    } finally {
      mine.tasks -= 1;
      if (mine.tasks === 0) mine.thread.busy(false);
    }
  };
  const decodeThere = (name: CodecName, input: Uint8Array, limitBytes: number) =>
    run((api) => api.decode(name, handOver(input), limitBytes));
  return {
    width,
    async warmUp() {
      const packed = await inline.encode('xz', new Uint8Array(WARM_BYTES), false);
      await Promise.all(Array.from({ length: width }, () => decodeThere('xz', packed, WARM_BYTES)));
    },
    async decode(name, input, limitBytes) {
      if (input.length < WORTH_BYTES) return inline.decode(name, input, limitBytes);
      const layout = name === 'lz4-legacy' ? lz4LegacyBlocks(input) : null;
      if (!layout || layout.blocks.length < 2)
        return decodeThere(name, input, limitBytes) as Promise<Decoded>;
      const parts = await Promise.all(
        layout.blocks.map((block) =>
          decodeThere('lz4-legacy', concatBytes([LZ4_LEGACY_MAGIC, block]), LZ4_LEGACY_BLOCK_BYTES),
        ),
      );
      const total = parts.reduce((sum, part) => sum + part.bytes.length, 0);
      if (total > limitBytes) return inline.decode(name, input, limitBytes);
      return { bytes: concatBytes(parts.map((part) => part.bytes)), consumed: layout.end };
    },
    async encode(name, bytes, strong = false) {
      if (bytes.length < WORTH_BYTES) return inline.encode(name, bytes, strong);
      if (name !== 'lz4-legacy')
        return (await run((api) => api.encode(name, handOver(bytes), strong))) as Uint8Array<ArrayBuffer>;
      const pieces: Uint8Array[] = [];
      for (let at = 0; at < bytes.length; at += LZ4_LEGACY_BLOCK_BYTES)
        pieces.push(bytes.subarray(at, at + LZ4_LEGACY_BLOCK_BYTES));
      const packed = await Promise.all(
        pieces.map((piece) => run((api) => api.encode(name, handOver(piece), strong))),
      );
      return concatBytes([LZ4_LEGACY_MAGIC, ...packed.map((part) => part.subarray(LZ4_LEGACY_MAGIC.length))]);
    },
  };
}
