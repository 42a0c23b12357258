import { ByteCursor } from '../../bytes/byte-cursor';
import type { ByteSource } from '../../bytes/byte-source';
import { EternoError } from '../../errors';

const LOCAL_HEADER = 0x04034b50;
export const LOCAL_HEADER_BYTES = 30;

/** Where an entry's data begins: its local header (30 bytes, LE) names its own name and extra lengths. */
export async function dataOffsetOf(
  source: ByteSource,
  headerOffset: number,
  signal?: AbortSignal,
): Promise<number> {
  const header = new ByteCursor(
    await source.read(headerOffset, headerOffset + LOCAL_HEADER_BYTES, signal),
    0,
    source.name,
    headerOffset,
  );
  if (header.u32le() !== LOCAL_HEADER) {
    throw new EternoError('bad-field', 'the archive directory points to something that is not an entry', {
      file: source.name,
      offset: headerOffset,
    });
  }
  header.skip(22);
  const nameBytes = header.u16le();
  const extraBytes = header.u16le();
  return headerOffset + LOCAL_HEADER_BYTES + nameBytes + extraBytes;
}
