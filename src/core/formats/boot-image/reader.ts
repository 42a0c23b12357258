import type { ByteSource } from '../../bytes/byte-source';
import { equalBytes, startsWith } from '../../bytes/bytes';
import type { Digests } from '../../bytes/digest';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';
import type { BootHeader, BootSection, BootSectionName } from './layout';
import { BOOT_MAGIC, layOutSections, LONGEST_HEADER_BYTES, parseBootHeader } from './layout';

export interface BootImage {
  readonly source: ByteSource;
  /** Bytes of nobody known before the magic; sections lie so much further on. */
  readonly prefix: number;
  readonly header: BootHeader;
  readonly sections: readonly BootSection[];
  /** End of the last section's own bytes, and the next page after it. */
  readonly end: number;
  readonly alignedEnd: number;
}

const PREFIX_STEP = 512;
const LONGEST_PREFIX = 4096;

/** How many bytes stand before the magic, a multiple of 512 up to 4,096; null where it is no boot image. */
export async function bootPrefixOf(source: ByteSource): Promise<number | null> {
  const head = await source.read(0, Math.min(source.size, LONGEST_PREFIX + BOOT_MAGIC.length));
  for (let at = 0; at <= LONGEST_PREFIX; at += PREFIX_STEP)
    if (startsWith(head.subarray(at), BOOT_MAGIC)) return at;
  return null;
}

/**
 * Reads a boot image's header and checks that all its sections lie in the file.
 * @throws {EternoError} `bad-magic`, `truncated`, `bad-field`, `too-large`
 */
export async function readBootImage(source: ByteSource): Promise<BootImage> {
  const prefix = (await bootPrefixOf(source)) ?? 0;
  const head = await source.read(prefix, Math.min(source.size, prefix + LONGEST_HEADER_BYTES));
  const header = parseBootHeader(head, source.name);
  if (source.size > LIMITS.imageBytes)
    throw new EternoError('too-large', `a boot image of ${source.size} bytes`, { file: source.name });
  const laid = layOutSections(header);
  const sections = laid.sections.map((section) => ({ ...section, offset: section.offset + prefix }));
  for (const section of sections) {
    if (section.offset + section.size > source.size) {
      throw new EternoError(
        'truncated',
        `the ${section.name} ends at byte ${section.offset + section.size}, but the file has only ${source.size}`,
        {
          file: source.name,
          offset: section.offset,
        },
      );
    }
  }
  return { source, prefix, header, sections, end: laid.end + prefix, alignedEnd: laid.alignedEnd + prefix };
}

export function sectionOf(image: BootImage, name: BootSectionName): BootSection | undefined {
  return image.sections.find((section) => section.name === name);
}

/** A section's bytes without padding; empty where the image has none. */
export async function sectionBytes(
  image: BootImage,
  name: BootSectionName,
): Promise<Uint8Array<ArrayBuffer>> {
  const section = sectionOf(image, name);
  return section ? image.source.read(section.offset, section.offset + section.size) : new Uint8Array(0);
}

/** Which parts an image's id covers: some writers of the old device-tree variant leave that part out. */
export type IdRule = 'all' | 'without-dt';

/** The id by a rule: SHA-1 over each part's bytes and its length (u32 LE), in 32 bytes. */
export async function computeId(
  header: BootHeader,
  partBytes: (name: BootSectionName) => Promise<Uint8Array>,
  digests: Digests,
  rule: IdRule,
): Promise<Uint8Array> {
  const names: BootSectionName[] = ['kernel', 'ramdisk', 'second'];
  if (header.version >= 1) names.push('recovery_dtbo');
  if (header.version === 2) names.push('dtb');
  if (header.dtVariant && rule === 'all') names.push('dt');
  const digest = await digests.create('sha1');
  for (const name of names) {
    const bytes = await partBytes(name);
    const length = new Uint8Array(4);
    new DataView(length.buffer).setUint32(0, bytes.length, true);
    digest.update(bytes);
    digest.update(length);
  }
  const id = new Uint8Array(32);
  id.set(digest.finish());
  return id;
}

/** The rule by which the image's own id was made, or null where it fits none (or the version has no id). */
export async function idRuleOf(image: BootImage, digests: Digests): Promise<IdRule | null> {
  if (!image.header.id) return null;
  const rules: IdRule[] = image.header.dtVariant ? ['all', 'without-dt'] : ['all'];
  for (const rule of rules) {
    const id = await computeId(image.header, (name) => sectionBytes(image, name), digests, rule);
    if (equalBytes(id, image.header.id)) return rule;
  }
  return null;
}
