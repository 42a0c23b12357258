import { EternoError } from '../errors';
import type { ByteSource } from './byte-source';
import { readPieces } from './byte-source';
import { toHex } from './bytes';
import type { Digests } from './digest';

/** What a source's bytes were proved to be, and who computes it. */
export interface Proved {
  /** Lower-case hex. */
  readonly sha256: string;
  readonly digests: Digests;
}

export interface HashedSource extends ByteSource {
  /**
   * Call once, after everything was read.
   * @throws {EternoError} `bad-hash` where these are other bytes, or not all of them were read in their order
   */
  prove(): void;
}

export const notWhatWasProved = (name: string, expected: string, got: string) =>
  new EternoError(
    'bad-hash',
    `${name} is not what was proved any more: its file was damaged. Take it out of its package again.`,
    {
      file: name,
      details: { expected, got },
    },
  );

/**
 * Another source's bytes, hashed as they are read from the front to the end: what is sent is what is proved.
 */
export async function hashedSource(source: ByteSource, { sha256, digests }: Proved): Promise<HashedSource> {
  const digest = await digests.create('sha256');
  let at = 0;
  let inOrder = true;
  return {
    name: source.name,
    size: source.size,
    async read(start, end, signal) {
      const bytes = await source.read(start, end, signal);
      inOrder &&= start === at;
      at = end;
      if (inOrder) digest.update(bytes);
      return bytes;
    },
    prove() {
      const got = inOrder && at === source.size ? toHex(digest.finish()) : 'not read whole';
      if (got !== sha256) throw notWhatWasProved(source.name, sha256, got);
    },
  };
}

/**
 * A source in pieces from the front to the end; the last goes only when all of them are what was proved.
 * @throws {EternoError} `bad-hash` in place of the last piece
 */
export async function* provedPieces(
  source: ByteSource,
  proved: Proved,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const hashed = await hashedSource(source, proved);
  let held: Uint8Array | null = null;
  for await (const piece of readPieces(hashed, 1 << 20, signal)) {
    if (held) yield held;
    held = piece;
  }
  hashed.prove();
  if (held) yield held;
}
