import { readdir, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { EternoError, toEternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import type { FileSource } from '@/platform/node/file-source';
import { openFile } from '@/platform/node/file-source';

export async function withFile<T>(path: string, work: (source: FileSource) => Promise<T>): Promise<T> {
  return withFiles([path], ([source]) => work(source!));
}

/**
 * Opens files, a folder standing for the files in it, and closes them whatever happens.
 * @throws {EternoError} `not-found`, `io`, `usage`
 */
export async function withFiles<T>(
  paths: readonly string[],
  work: (sources: readonly FileSource[]) => Promise<T>,
): Promise<T> {
  const opened: FileSource[] = [];
  try {
    for (const path of await expandFolders(paths)) opened.push(await openFile(path));
    return await work(opened);
  } finally {
    for (const source of opened) await source.close();
  }
}

/** A text file, whole. @throws {EternoError} `too-large` */
export async function readText(path: string): Promise<string> {
  return withFile(path, async (source) => {
    if (source.size > LIMITS.factsTextBytes)
      throw new EternoError('too-large', 'the text is longer than anything that is read here', {
        file: source.name,
      });
    const bytes = await source.read(0, source.size);
    // some consoles write what they are told to in two bytes a character
    const wide = bytes[0] === 0xff && bytes[1] === 0xfe;
    return new TextDecoder(wide ? 'utf-16le' : 'utf-8').decode(bytes);
  });
}

/** @throws {EternoError} `bad-field` for what is no JSON, `too-large` */
export async function readJson(path: string): Promise<unknown> {
  const text = await readText(path);
  try {
    return JSON.parse(text);
  } catch (thrown) {
    throw new EternoError('bad-field', 'the file is no JSON', { file: basename(path), cause: thrown });
  }
}

/** @throws {EternoError} `refused` where a file lies there already */
export async function refuseExisting(path: string): Promise<void> {
  const info = await stat(path).catch(() => null);
  if (info !== null && !info.isDirectory())
    throw new EternoError('refused', 'there is a file of this name already; --force replaces it', {
      file: basename(path),
    });
}

/** No result is ever put in the place of an existing file. @throws {EternoError} `refused` */
export async function refuseToReplace(args: readonly string[]): Promise<void> {
  for (const [i, argument] of args.entries()) {
    const path =
      argument === '--out'
        ? args[i + 1]
        : argument.startsWith('--out=')
          ? argument.slice('--out='.length)
          : undefined;
    if (path !== undefined) await refuseExisting(path);
  }
}

async function expandFolders(paths: readonly string[]): Promise<string[]> {
  const files: string[] = [];
  for (const path of paths) {
    const info = await stat(path).catch((thrown: unknown) => {
      const missing = (thrown as NodeJS.ErrnoException).code === 'ENOENT';
      throw new EternoError(
        missing ? 'not-found' : 'io',
        missing ? 'there is no such file' : toEternoError(thrown).message,
        {
          file: basename(path),
          cause: thrown,
        },
      );
    });
    if (!info.isDirectory()) files.push(path);
    else {
      const entries = (await readdir(path, { withFileTypes: true })).filter((entry) => entry.isFile());
      if (entries.length === 0)
        throw new EternoError('not-found', 'the folder holds no file', { file: basename(path) });
      files.push(...entries.map((entry) => join(path, entry.name)).sort());
    }
    if (files.length > LIMITS.packageFiles)
      throw new EternoError('usage', `more than ${LIMITS.packageFiles} files`);
  }
  return files;
}
