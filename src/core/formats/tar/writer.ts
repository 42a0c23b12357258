import { concatBytes, latin1 } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { TAR_BLOCK_BYTES, tarChecksum } from './layout';

export interface TarInput {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** `0` where it is left out: a file. */
  readonly type?: string;
}

/**
 * One member as common writers make it (docs/formats.md, "Tar sets").
 * @throws {EternoError} `too-large` for a name that does not fit
 */
export function tarMember({ name, bytes, type = '0' }: TarInput): Uint8Array<ArrayBuffer> {
  const header = new Uint8Array(TAR_BLOCK_BYTES);
  const written = latin1(name);
  if (written.length > 100)
    throw new EternoError('too-large', 'a name of more than 100 bytes does not fit a tar header', {
      file: name,
    });
  header.set(written);
  header.set(latin1('0000644\0'), 100);
  header.set(latin1(`${bytes.length.toString(8).padStart(11, '0')}\0`), 124);
  header.set(latin1('00000000000\0'), 136);
  header[156] = type.charCodeAt(0);
  header.set(latin1('ustar\x0000'), 257);
  header.set(latin1(`${tarChecksum(header).toString(8).padStart(6, '0')}\0 `), 148);
  return concatBytes([
    header,
    bytes,
    new Uint8Array((TAR_BLOCK_BYTES - (bytes.length % TAR_BLOCK_BYTES)) % TAR_BLOCK_BYTES),
  ]);
}

/** An archive with its two empty blocks at the end. */
export const writeTar = (members: readonly TarInput[]): Uint8Array<ArrayBuffer> =>
  concatBytes([...members.map(tarMember), new Uint8Array(2 * TAR_BLOCK_BYTES)]);
