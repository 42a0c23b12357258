import 'server-only';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { BACKUP_SHELVES } from '@/contracts/backup-manifest';
import { EternoError } from '@/core/errors';
import { sha256Hex, sha256OfSource } from '@/core/bytes/digest';
import { notWhatWasProved } from '@/core/bytes/hashed-source';
import { LIMITS } from '@/core/limits';
import { fileSink } from '@/platform/node/file-sink';
import type { FileSource } from '@/platform/node/file-source';
import { openFile } from '@/platform/node/file-source';
import { nodeDigests } from '@/platform/node/node-digests';
import { vaultDir } from '../db/data-dir';

const SHA256 = /^[0-9a-f]{64}$/;
/** `data`: images of a handset's data, private, in no backup of the store. */
export type VaultShelf = 'images' | 'kits' | 'installs' | 'modules' | 'pictures' | 'data';
const SHELVES: readonly VaultShelf[] = ['images', 'kits', 'installs', 'modules', 'pictures', 'data'];

/**
 * Where a file of this hash lies; only a hash ever becomes part of a path.
 * @throws {EternoError} `unsafe-path`
 */
export function vaultPath(shelf: VaultShelf, sha256: string): string {
  if (!SHA256.test(sha256)) throw new EternoError('unsafe-path', 'this is no SHA-256');
  return join(/*turbopackIgnore: true*/ vaultDir(), shelf, sha256.slice(0, 2), sha256);
}

/**
 * Takes bytes in under their hash: written to a temporary name, hashed, flushed, moved. Twice the same bytes
 * are kept once.
 * @throws {EternoError} `bad-hash` when they are not what was announced, `too-large`, `truncated`
 */
export async function putInVault(
  shelf: VaultShelf,
  sha256: string,
  bytes: AsyncIterable<Uint8Array>,
  limitBytes: number = LIMITS.imageBytes,
): Promise<number> {
  const path = vaultPath(shelf, sha256);
  await mkdir(join(/*turbopackIgnore: true*/ path, '..'), { recursive: true });
  const sink = fileSink(path);
  try {
    const digest = await nodeDigests.create('sha256');
    let size = 0;
    await sink.begin(0);
    for await (const piece of bytes) {
      if (size + piece.length > limitBytes)
        throw new EternoError('too-large', `more than ${limitBytes} bytes came`);
      digest.update(piece);
      await sink.writeAt(size, piece);
      size += piece.length;
    }
    const got = Buffer.from(digest.finish()).toString('hex');
    if (got !== sha256)
      throw new EternoError('bad-hash', 'what arrived is not what was announced', {
        details: { expected: sha256, got },
      });
    await sink.commit();
    return size;
  } finally {
    await sink.discard();
  }
}

/** @throws {EternoError} `not-found` */
export function openInVault(shelf: VaultShelf, sha256: string): Promise<FileSource> {
  return openFile(vaultPath(shelf, sha256));
}

/**
 * All bytes of a file, after they were hashed.
 * @throws {EternoError} `not-found`, `bad-hash` where the file was damaged
 */
export async function readProved(shelf: VaultShelf, sha256: string): Promise<Uint8Array<ArrayBuffer>> {
  const source = await openInVault(shelf, sha256);
  try {
    const bytes = await source.read(0, source.size);
    const got = await sha256Hex(nodeDigests, bytes);
    if (got !== sha256) throw notWhatWasProved(source.name, sha256, got);
    return bytes;
  } finally {
    await source.close();
  }
}

/**
 * A file to read from, hashed first.
 * @throws {EternoError} `not-found`, `bad-hash` where the file was damaged
 */
export async function openProved(shelf: VaultShelf, sha256: string): Promise<FileSource> {
  const source = await openInVault(shelf, sha256);
  const got = await sha256OfSource(nodeDigests, source);
  if (got === sha256) return source;
  await source.close();
  throw notWhatWasProved(source.name, sha256, got);
}

/** Whether the file is there and still has its hash. */
export async function isWhole(shelf: VaultShelf, sha256: string, signal?: AbortSignal): Promise<boolean> {
  const source = await openInVault(shelf, sha256).catch(() => null);
  if (!source) return false;
  try {
    return (await sha256OfSource(nodeDigests, source, signal)) === sha256;
  } finally {
    await source.close();
  }
}

/** Bytes of a file that is there; null where it is gone. */
export async function sizeInVault(shelf: VaultShelf, sha256: string): Promise<number | null> {
  return stat(/*turbopackIgnore: true*/ vaultPath(shelf, sha256)).then(
    (info) => info.size,
    () => null,
  );
}

/** Hashes by which what a backup carries is kept, whether anything speaks of them or not. */
export async function filesInVault(): Promise<string[]> {
  const names: string[] = [];
  await eachFile(async (_path, name) => {
    if (SHA256.test(name)) names.push(name);
  }, BACKUP_SHELVES);
  return names;
}

export interface VaultSize {
  readonly files: number;
  readonly bytes: number;
}

async function eachFile(
  visit: (path: string, name: string) => Promise<void>,
  shelves: readonly VaultShelf[] = SHELVES,
): Promise<void> {
  for (const shelf of shelves) {
    const top = join(/*turbopackIgnore: true*/ vaultDir(), shelf);
    for (const folder of await readdir(top).catch(() => [] as string[])) {
      for (const name of await readdir(join(/*turbopackIgnore: true*/ top, folder)))
        await visit(join(top, folder, name), name);
    }
  }
}

export async function vaultSize(): Promise<VaultSize> {
  let [files, bytes] = [0, 0];
  await eachFile(async (path, name) => {
    if (!SHA256.test(name)) return;
    files += 1;
    bytes += (await stat(/*turbopackIgnore: true*/ path)).size;
  });
  return { files, bytes };
}

/** Throws away what a process that was killed in mid-write left behind. */
export async function sweepVault(): Promise<number> {
  let swept = 0;
  await eachFile(async (path, name) => {
    if (!name.endsWith('.part')) return;
    await rm(/*turbopackIgnore: true*/ path, { force: true });
    swept += 1;
  });
  return swept;
}
