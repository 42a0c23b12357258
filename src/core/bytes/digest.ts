import type { ByteSource } from './byte-source';
import { readPieces } from './byte-source';
import { concatBytes, toHex } from './bytes';
import { throwIfAborted } from '../errors';

export type DigestName = 'sha256' | 'sha1' | 'md5' | 'sha512';

export interface Digest {
  update(bytes: Uint8Array): void;
  /** Ends the digest; call once. */
  finish(): Uint8Array<ArrayBuffer>;
}

/** Where digests come from: node:crypto on the server, WebAssembly in the browser. */
export interface Digests {
  create(name: DigestName): Promise<Digest>;
  /**
   * The digest of bytes that lie in memory as one, where the platform has a quicker way for that; null where it
   * has none of this name.
   */
  whole?(name: DigestName, bytes: Uint8Array<ArrayBuffer>): Promise<Uint8Array<ArrayBuffer>> | null;
}

/** As much is held in memory to be hashed as one. */
const WHOLE_BYTES = 256 * 1024 * 1024;
/** Below it the quicker way costs more than it gains. */
const WORTH_BYTES = 64 * 1024;
const PIECE_BYTES = 1 << 20;
/** A browser takes as long to begin a reading as to read some of these. */
const HELD_PIECE_BYTES = 16 << 20;

export async function digestBytes(
  digests: Digests,
  name: DigestName,
  ...parts: Uint8Array[]
): Promise<Uint8Array<ArrayBuffer>> {
  const total = parts.reduce((sum, part) => sum + part.length, 0);
  if (digests.whole && total >= WORTH_BYTES && total <= WHOLE_BYTES) {
    const whole = digests.whole(name, asOne(parts));
    if (whole) return whole;
  }
  const digest = await digests.create(name);
  for (const part of parts) digest.update(part);
  return digest.finish();
}

function asOne(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const [only, ...more] = parts;
  return more.length === 0 && only!.buffer instanceof ArrayBuffer
    ? (only as Uint8Array<ArrayBuffer>)
    : concatBytes(parts);
}

export async function sha256Hex(digests: Digests, ...parts: Uint8Array[]): Promise<string> {
  return toHex(await digestBytes(digests, 'sha256', ...parts));
}

/**
 * A digest of a whole source in lower-case hex, read in pieces.
 * @param before bytes that are hashed in front of it
 */
export async function digestOfSource(
  digests: Digests,
  name: DigestName,
  source: ByteSource,
  signal?: AbortSignal,
  onProgress?: (doneBytes: number) => void,
  before: Uint8Array = new Uint8Array(0),
): Promise<string> {
  const total = before.length + source.size;
  const held = digests.whole && total >= WORTH_BYTES && total <= WHOLE_BYTES ? new Uint8Array(total) : null;
  const digest = held ? null : await digests.create(name);
  const take = (bytes: Uint8Array, at: number) => (held ? held.set(bytes, at) : digest!.update(bytes));
  take(before, 0);
  let done = 0;
  for await (const piece of readPieces(source, held ? HELD_PIECE_BYTES : PIECE_BYTES, signal)) {
    throwIfAborted(signal);
    take(piece, before.length + done);
    done += piece.length;
    onProgress?.(done);
  }
  return toHex(held ? await digestBytes(digests, name, held) : digest!.finish());
}

/** SHA-256 of a whole source in lower-case hex. */
export function sha256OfSource(
  digests: Digests,
  source: ByteSource,
  signal?: AbortSignal,
  onProgress?: (doneBytes: number) => void,
): Promise<string> {
  return digestOfSource(digests, 'sha256', source, signal, onProgress);
}
