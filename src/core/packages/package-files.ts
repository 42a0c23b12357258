import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import type { CheckedSource, ZipArchive } from '../formats/zip/zip-archive';
import { LIMITS } from '../limits';

/** One file of a package, in an archive or loose in a folder. */
export interface PackageFile {
  readonly name: string;
  readonly size: number;
  /** As its archive states it; null for a loose file. */
  readonly crc32: number | null;
  open(signal?: AbortSignal): Promise<CheckedSource>;
}

export function filesOfZip(archive: ZipArchive): PackageFile[] {
  return archive.entries
    .filter((entry) => !entry.directory)
    .map((entry) => ({
      name: entry.name,
      size: entry.size,
      crc32: entry.crc32,
      open: (signal) => archive.openEntry(entry, signal),
    }));
}

export function looseFiles(sources: readonly ByteSource[]): PackageFile[] {
  return sources.map((source) => ({
    name: source.name,
    size: source.size,
    crc32: null,
    open: async () => ({ source, check: async () => undefined }),
  }));
}

export const baseName = (name: string) => name.slice(name.lastIndexOf('/') + 1);

/** The one file of a name, or null. @throws {EternoError} `duplicate` */
export function findFile(files: readonly PackageFile[], name: string): PackageFile | null {
  const found = files.filter((file) => file.name === name);
  if (found.length > 1)
    throw new EternoError('duplicate', `the package holds "${name}" ${found.length} times`);
  return found[0] ?? null;
}

/** A small text file, whole. @throws {EternoError} `too-large`, `bad-hash` */
export async function readTextFile(file: PackageFile): Promise<string> {
  if (file.size > LIMITS.textMemberBytes)
    throw new EternoError('too-large', `${file.name} is ${file.size} bytes, too long for a text`, {
      file: file.name,
    });
  const { source, check } = await file.open();
  const bytes = await source.read(0, source.size);
  await check();
  return new TextDecoder().decode(bytes);
}

/** `key=value` lines; what is no such line is passed over. */
export function parseKeyValues(text: string): ReadonlyMap<string, string> {
  const values = new Map<string, string>();
  for (const line of text.split(/\r?\n/)) {
    const at = line.indexOf('=');
    if (at > 0) values.set(line.slice(0, at).trim(), line.slice(at + 1).trim());
  }
  return values;
}
