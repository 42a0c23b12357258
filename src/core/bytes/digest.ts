import type { ByteSource } from './byte-source';
import { readPieces } from './byte-source';
import { toHex } from './bytes';
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
}

export async function digestBytes(
  digests: Digests,
  name: DigestName,
  ...parts: Uint8Array[]
): Promise<Uint8Array<ArrayBuffer>> {
  const digest = await digests.create(name);
  for (const part of parts) digest.update(part);
  return digest.finish();
}

export async function sha256Hex(digests: Digests, ...parts: Uint8Array[]): Promise<string> {
  return toHex(await digestBytes(digests, 'sha256', ...parts));
}

/** A digest of a whole source in lower-case hex, read in pieces. */
export async function digestOfSource(
  digests: Digests,
  name: DigestName,
  source: ByteSource,
  signal?: AbortSignal,
  onProgress?: (doneBytes: number) => void,
): Promise<string> {
  const digest = await digests.create(name);
  let done = 0;
  for await (const piece of readPieces(source, 1 << 20, signal)) {
    throwIfAborted(signal);
    digest.update(piece);
    done += piece.length;
    onProgress?.(done);
  }
  return toHex(digest.finish());
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
