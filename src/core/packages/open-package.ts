import type { ByteSource } from '../bytes/byte-source';
import { latin1, startsWith } from '../bytes/bytes';
import { EternoError } from '../errors';
import { VBMETA_MAGIC } from '../formats/avb/layout';
import { BOOT_MAGIC } from '../formats/boot-image/layout';
import { PAYLOAD_MAGIC } from '../formats/payload/layout';
import type { ZipArchive } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import { VENDOR_BOOT_MAGIC } from '../formats/vendor-boot/layout';
import { KIT_MANIFEST_NAME, readKitArchive } from '../kits/read-kit';
import type { Ports } from '../ports';
import { openBareImage } from './bare-image';
import type { OpenedPackage } from './package-report';
import { UNKNOWN_BUILD } from './package-report';
import { openPayloadFile, openUpdateZip, payloadEntryOf } from './update-package';

const ZIP_MAGIC = latin1('PK\x03\x04');
const ZIP_EMPTY_MAGIC = latin1('PK\x05\x06');

/** A file that no reader recognises: told so, not an error. */
function unknownPackage(source: ByteSource, why: string): OpenedPackage {
  return {
    report: { kind: 'unknown', incremental: false, build: UNKNOWN_BUILD, images: [], evidence: [], warnings: [why] },
    take: async (partition) => {
      throw new EternoError('bad-magic', `${why}; no image of ${partition} can be taken out`, { file: source.name, offset: 0 });
    },
  };
}

async function openArchive(source: ByteSource, archive: ZipArchive, ports: Ports): Promise<OpenedPackage> {
  const payload = payloadEntryOf(archive);
  if (payload) return openUpdateZip(archive, payload, ports);
  if (findEntry(archive, KIT_MANIFEST_NAME)) {
    const { kit, warnings } = await readKitArchive(archive, source.name);
    const evidence = [`holds ${KIT_MANIFEST_NAME}: patch kit ${kit.name} ${kit.version}, ${kit.channel}`];
    return {
      ...unknownPackage(source, 'a kit holds no image'),
      report: { kind: 'kit', incremental: false, build: UNKNOWN_BUILD, images: [], evidence, warnings },
    };
  }
  return unknownPackage(source, `an archive of ${archive.entries.length} entries, none of which is known here`);
}

/**
 * Opens a package by the evidence in it, never by its name; reads only its index.
 * @throws {EternoError} `truncated` for an empty file, and what the readers throw on a damaged package of a known kind
 */
export async function openPackage(source: ByteSource, ports: Ports, signal?: AbortSignal): Promise<OpenedPackage> {
  if (source.size === 0) throw new EternoError('truncated', 'the file is empty', { file: source.name, offset: 0 });
  const head = await source.read(0, Math.min(source.size, 8), signal);
  if (startsWith(head, PAYLOAD_MAGIC)) return openPayloadFile(source, ports);
  if ([BOOT_MAGIC, VENDOR_BOOT_MAGIC, VBMETA_MAGIC].some((magic) => startsWith(head, magic))) return openBareImage(source, ports);
  const looksZipped = startsWith(head, ZIP_MAGIC) || startsWith(head, ZIP_EMPTY_MAGIC);
  let archive: ZipArchive | null = null;
  try {
    archive = await ports.openZip(source, signal);
  } catch (thrown) {
    // bytes that only happen to end like an archive are not called a damaged one
    if (looksZipped)
      throw new EternoError(
        (thrown as EternoError).code === 'bad-magic' ? 'truncated' : (thrown as EternoError).code,
        (thrown as EternoError).message,
        { file: source.name, cause: thrown },
      );
    if (!(thrown instanceof EternoError) || thrown.code === 'cancelled' || thrown.code === 'io') throw thrown;
  }
  if (archive) return openArchive(source, archive, ports);
  try {
    return await openBareImage(source, ports);
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code === 'bad-magic') return unknownPackage(source, 'nothing known stands in this file');
    throw thrown;
  }
}
