import { EternoError } from '../errors';
import type { ByteSource } from './byte-source';
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
