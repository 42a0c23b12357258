import { startsWith } from './bytes';
import { EternoError } from '../errors';

/*
 * Some makers put a header of 512 bytes before a section's own content (docs/formats.md, "Boot image"): magic,
 * u32 LE size of what follows, a name, and 0xFF to its end. It counts in the section's size.
 */

const MAGIC = Uint8Array.of(0x88, 0x16, 0x88, 0x58);
export const PART_HEADER_BYTES = 512;
const SIZE_AT = 4;

export interface PartOfSection {
  /** Empty where the section has none. */
  readonly header: Uint8Array;
  readonly body: Uint8Array;
}

/** @throws {EternoError} `truncated`, `bad-field` where the header states another size than what follows */
export function splitPartHeader(section: Uint8Array): PartOfSection {
  if (!startsWith(section, MAGIC)) return { header: new Uint8Array(0), body: section };
  if (section.length < PART_HEADER_BYTES)
    throw new EternoError(
      'truncated',
      `a part header has ${PART_HEADER_BYTES} bytes, and ${section.length} are there`,
    );
  const [header, body] = [section.subarray(0, PART_HEADER_BYTES), section.subarray(PART_HEADER_BYTES)];
  const size = new DataView(header.buffer, header.byteOffset).getUint32(SIZE_AT, true);
  if (size !== body.length)
    throw new EternoError('bad-field', `the part header states ${size} bytes, and ${body.length} follow`, {
      offset: SIZE_AT,
    });
  return { header, body };
}

/** The section with another body; its header states the new size. */
export function withPartHeader(
  { header }: Pick<PartOfSection, 'header'>,
  body: Uint8Array,
): Uint8Array<ArrayBuffer> {
  const section = new Uint8Array(header.length + body.length);
  section.set(header);
  section.set(body, header.length);
  if (header.length > 0) new DataView(section.buffer).setUint32(SIZE_AT, body.length, true);
  return section;
}
