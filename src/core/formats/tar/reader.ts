import type { ByteSource } from '../../bytes/byte-source';
import { fromLatin1, isZero } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import { isTarHeader, parseTarHeader, TAR_BLOCK_BYTES } from './layout';

export interface TarMember {
  readonly name: string;
  readonly type: string;
  readonly size: number;
  /** Offsets in the file: of the header that counts, and of the data behind it. */
  readonly headerOffset: number;
  readonly dataOffset: number;
}

export interface TarArchive {
  readonly members: readonly TarMember[];
  /** Where the archive ends; a line with its MD5 may follow. */
  readonly endBytes: number;
  readonly md5Line: { readonly md5: string; readonly name: string; readonly text: string } | null;
  /** The empty block that ends an archive stands behind its last member. */
  readonly ended: boolean;
}

const LONGEST_LINE_BYTES = 1024;
const padded = (size: number) => Math.ceil(size / TAR_BLOCK_BYTES) * TAR_BLOCK_BYTES;

export async function isTar(source: ByteSource): Promise<boolean> {
  return source.size >= TAR_BLOCK_BYTES && isTarHeader(await source.read(0, TAR_BLOCK_BYTES));
}

/** The line that some makers append to a tar: `md5  name`. Null where there is none. */
async function readMd5Line(source: ByteSource): Promise<TarArchive['md5Line']> {
  const tail = fromLatin1(await source.read(Math.max(0, source.size - LONGEST_LINE_BYTES), source.size));
  const match = /(?:^|[\0\n])(([0-9a-fA-F]{32})[ \t]+\*?([^\0\r\n]+)\r?\n?)$/.exec(tail);
  return match ? { text: match[1]!, md5: match[2]!.toLowerCase(), name: match[3]! } : null;
}

/**
 * Walks a tar's headers, no data.
 * @throws {EternoError} `truncated`, `bad-field`, `bad-hash` (a header's checksum), `too-large` (members)
 */
export async function readTar(source: ByteSource): Promise<TarArchive> {
  const file = source.name;
  const md5Line = await readMd5Line(source);
  const endBytes = source.size - (md5Line?.text.length ?? 0);
  const members: TarMember[] = [];
  let longName: string | null = null;
  let at = 0;
  while (at + TAR_BLOCK_BYTES <= endBytes) {
    const block = await source.read(at, at + TAR_BLOCK_BYTES);
    if (isZero(block)) return { members, endBytes, md5Line, ended: true };
    const header = parseTarHeader(block, file, at);
    const dataOffset = at + TAR_BLOCK_BYTES;
    if (dataOffset + header.size > endBytes)
      throw new EternoError(
        'truncated',
        `"${header.name}" ends at byte ${dataOffset + header.size}, but the archive has only ${endBytes}`,
        {
          file,
          offset: at,
        },
      );
    const readText = async () => {
      if (header.size > LIMITS.textMemberBytes)
        throw new EternoError('too-large', `a name of ${header.size} bytes`, { file, offset: at });
      return new TextDecoder().decode(await source.read(dataOffset, dataOffset + header.size));
    };
    if (header.type === 'L') longName = (await readText()).replace(/\0.*$/s, '');
    else if (header.type === 'x') longName = paxPath(await readText()) ?? longName;
    else if (header.type !== 'g' && header.type !== 'K') {
      if (members.length >= LIMITS.tarMembers)
        throw new EternoError('too-large', `more than ${LIMITS.tarMembers} members in one archive`, {
          file,
          offset: at,
        });
      members.push({
        name: longName ?? header.name,
        type: header.type,
        size: header.size,
        headerOffset: at,
        dataOffset,
      });
      longName = null;
    }
    at = dataOffset + padded(header.size);
  }
  if (members.length === 0)
    throw new EternoError('truncated', 'the tar holds no whole member', { file, offset: at });
  return { members, endBytes, md5Line, ended: false };
}

/** The `path` of a pax attribute block: lines of `length key=value`. */
function paxPath(text: string): string | null {
  return /(?:^|\n)\d+ path=([^\n]+)\n/.exec(text)?.[1] ?? null;
}
