import { readFirmwareSet } from './firmware-set';
import type { ByteSource } from '../bytes/byte-source';
import { latin1, startsWith } from '../bytes/bytes';
import { EternoError } from '../errors';
import { VBMETA_MAGIC } from '../formats/avb/layout';
import { BOOT_MAGIC } from '../formats/boot-image/layout';
import { PAYLOAD_MAGIC } from '../formats/payload/layout';
import { isTar } from '../formats/tar/reader';
import type { ZipArchive } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import { VENDOR_BOOT_MAGIC } from '../formats/vendor-boot/layout';
import { KIT_MANIFEST_NAME } from '../kits/kit-json';
import { readKitArchive } from '../kits/read-kit';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import { openBareImage } from './bare-image';
import { openBlockUpdate, transferredPartitions } from './block-update';
import { findFlashList, openFlashList } from './flash-list-package';
import { innerImageZip, looksLikeImages, openFactoryZip, openImageFiles } from './image-zip';
import { contentsOf } from './contents';
import type { PackageFile } from './package-files';
import { filesOfZip, looseFiles } from './package-files';
import type { OpenedPackage } from './package-report';
import { openScriptZip } from './script-zip';
import { nameOf } from './set-roles';
import { openTarSet } from './tar-set';
import { unknownPackage } from './unknown-package';
import { openPayloadFile, openUpdateZip, payloadEntryOf } from './update-package';

const ZIP_MAGIC = latin1('PK\x03\x04');
const ZIP_EMPTY_MAGIC = latin1('PK\x05\x06');

async function openArchive(
  source: ByteSource,
  archive: ZipArchive,
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const opened = await openKnownArchive(source, archive, ports, watch);
  const files = archive.entries.filter((entry) => !entry.directory);
  return { ...opened, contents: contentsOf(files, opened.report.images) };
}

async function openKnownArchive(
  source: ByteSource,
  archive: ZipArchive,
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const payload = payloadEntryOf(archive);
  if (payload) return openUpdateZip(archive, payload, ports);
  if (findEntry(archive, KIT_MANIFEST_NAME)) {
    const { kit, warnings } = await readKitArchive(archive, source.name);
    const { report, ...rest } = unknownPackage(source.name, 'a kit holds no image');
    const evidence = [`holds ${KIT_MANIFEST_NAME}: patch kit ${kit.name} ${kit.version}, ${kit.channel}`];
    return { ...rest, report: { ...report, kind: 'kit', evidence, warnings } };
  }
  const inner = innerImageZip(archive);
  if (inner) return openFactoryZip(archive, inner, ports, watch);
  const files = filesOfZip(archive);
  const tars = archive.entries.filter((entry) => !entry.directory && /\.tar(\.md5)?$/i.test(entry.name));
  if (tars.length > 0) {
    const sources: ByteSource[] = [];
    for (const entry of tars) sources.push((await archive.openEntry(entry, watch.signal)).source);
    return openParts(sources, ports, watch);
  }
  if (transferredPartitions(files).length > 0) return openBlockUpdate(files, ports, watch);
  return (
    (await openFiles(files, ports, watch)) ??
    unknownPackage(
      source.name,
      `an archive of ${archive.entries.length} entries, none of which is known here`,
    )
  );
}

/** What loose files and plain archives have in common: a list of writes, an install script, or images. */
async function openFiles(
  files: readonly PackageFile[],
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage | null> {
  const list = await findFlashList(files, ports);
  if (list) return openFlashList(files, list, ports, watch);
  const script = await openScriptZip('package', files);
  if (script) return script;
  return looksLikeImages(files) ? openImageFiles(files, ports, watch) : null;
}

/**
 * Opens files that belong together as one package: a tar set, a folder with a list of writes, or images side
 * by side. One file is a package by itself.
 * @throws {EternoError} `usage` for none or too many, `unsupported` where they are no one package, and what
 *   the readers throw
 */
export async function openPackageFiles(
  sources: readonly ByteSource[],
  ports: Ports,
  watch: Watch = {},
): Promise<OpenedPackage> {
  const [only] = sources;
  if (!only || sources.length > LIMITS.packageFiles)
    throw new EternoError('usage', `1 to ${LIMITS.packageFiles} files make a package`);
  if (sources.length === 1) return openPackage(only, ports, watch);
  const tars: ByteSource[] = [];
  for (const source of sources) if (await isTar(source)) tars.push(source);
  if (tars.length > 0) {
    const opened = await openParts(tars, ports, watch);
    const others = sources
      .filter((source) => !tars.includes(source))
      .map((source) => `${source.name} is no part of the tar set`);
    return { ...opened, report: { ...opened.report, warnings: [...opened.report.warnings, ...others] } };
  }
  const opened = await openFiles(looseFiles(sources), ports, watch);
  if (opened) return { ...opened, contents: contentsOf(sources, opened.report.images) };
  throw new EternoError(
    'unsupported',
    `${sources.length} files that make no one package; name them one by one`,
  );
}

/**
 * Opens a package by the evidence in it, never by its name; reads only its index.
 * @throws {EternoError} `truncated` for an empty file, and what the readers throw on a damaged package of a
 *   known kind
 */
export async function openPackage(
  source: ByteSource,
  ports: Ports,
  watch: Watch = {},
): Promise<OpenedPackage> {
  const { signal } = watch;
  if (source.size === 0)
    throw new EternoError('truncated', 'the file is empty', { file: source.name, offset: 0 });
  const head = await source.read(0, Math.min(source.size, 8), signal);
  if (startsWith(head, PAYLOAD_MAGIC)) return openPayloadFile(source, ports);
  if ([BOOT_MAGIC, VENDOR_BOOT_MAGIC, VBMETA_MAGIC].some((magic) => startsWith(head, magic)))
    return openBareImage(source, ports);
  const looksZipped = startsWith(head, ZIP_MAGIC) || startsWith(head, ZIP_EMPTY_MAGIC);
  // before archives with leading bytes are looked for: a tar may end with a member that is an archive itself
  if (!looksZipped && (await isTar(source))) return openParts([source], ports, watch);
  const archive = await archiveIn(source, looksZipped, ports, signal);
  if (archive) return openArchive(source, archive, ports, watch);
  try {
    return await openBareImage(source, ports);
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code === 'bad-magic')
      return unknownPackage(source.name, 'nothing known stands in this file');
    throw thrown;
  }
}

/** The archive that a file is or ends with; null where it is none. */
async function archiveIn(
  source: ByteSource,
  looksZipped: boolean,
  ports: Ports,
  signal: AbortSignal | undefined,
): Promise<ZipArchive | null> {
  try {
    return await ports.openZip(source, signal);
  } catch (thrown) {
    // bytes that only happen to end like an archive are not called a damaged one
    if (looksZipped)
      throw new EternoError(
        (thrown as EternoError).code === 'bad-magic' ? 'truncated' : (thrown as EternoError).code,
        (thrown as EternoError).message,
        { file: source.name, cause: thrown },
      );
    if (!(thrown instanceof EternoError) || thrown.code === 'cancelled' || thrown.code === 'io') throw thrown;
    return null;
  }
}

/** Archives of a firmware set, told as its parts where they are several, or one that is called a part. */
async function openParts(sources: readonly ByteSource[], ports: Ports, watch: Watch): Promise<OpenedPackage> {
  const { spoken, ...opened } = await openTarSet(sources, ports, watch);
  const names = new Set(sources.map(({ name }) => name));
  if (names.size < sources.length || (names.size === 1 && nameOf([...names][0]!).token === null))
    return opened;
  const set = await readFirmwareSet(sources, ports, watch, { quick: spoken ?? true });
  const warnings = [...new Set([...opened.report.warnings, ...set.warnings])];
  return { ...opened, report: { ...opened.report, warnings, set } };
}
