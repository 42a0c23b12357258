import 'server-only';
import { createHash, randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import type { BackupManifest, BackupShelf } from '@/contracts/backup-manifest';
import {
  BACKUP_FORMAT,
  BACKUP_MANIFEST,
  BACKUP_VERSION,
  filePath,
  parseManifest,
  tablePath,
} from '@/contracts/backup-manifest';
import type { JobView } from '@/contracts/job-view';
import type { BackupPreview } from '@/contracts/store-view';
import { readPieces } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import { boundedJson } from '@/core/bounded-json';
import { blankIn } from '@/core/sharing/blank-private';
import type { ZipArchive } from '@/core/formats/zip/zip-archive';
import { LIMITS } from '@/core/limits';
import type { PackageReport } from '@/core/packages/package-report';
import type { Watch } from '@/core/ports';
import type { FileSource } from '@/platform/node/file-source';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import type { ZipMember } from '@/platform/node/zip-stream';
import { zipStream } from '@/platform/node/zip-stream';
import type { BackupRow, BackupTable } from '../db/backup-tables';
import {
  againstStore,
  BACKUP_TABLES,
  checkRow,
  dumpTable,
  insertRows,
  isBackupTable,
} from '../db/backup-tables';
import { CABLE, CABLE_FOR } from '../db/setting-keys';
import { appendEvent } from '../repositories/event-repository';
import { isWhole, openInVault, openProved, putInVault, sizeInVault, vaultPath } from '../vault/vault';
import { now } from './clock';
import { forgetIncoming, incomingPath, receiveFile } from './incoming';
import { startJob } from './jobs';
import { oneAtATime } from './one-at-a-time';
import { allPrivateValues } from './private-values';

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const encode = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));

/** Tables whose rows speak of files in the vault. */
const FILES_OF: Readonly<
  Partial<
    Record<
      BackupTable,
      { readonly shelf: BackupShelf; readonly hashOf: (row: BackupRow) => string | number | null | undefined }
    >
  >
> = {
  images: { shelf: 'images', hashOf: (row) => row['sha256'] },
  kits: { shelf: 'kits', hashOf: (row) => row['sha256'] },
  packages: { shelf: 'installs', hashOf: ({ report }) => installIn(String(report)) },
  modules: { shelf: 'modules', hashOf: (row) => row['sha256'] },
  step_notes: { shelf: 'pictures', hashOf: (row) => row['picture'] },
};

/** The hash of an install package that is kept whole. */
const installIn = (report: string) => (JSON.parse(report) as Partial<PackageReport>).kept?.sha256;

interface DumpedTable {
  readonly name: BackupTable;
  readonly rows: number;
  readonly bytes: Uint8Array;
}

async function dump(
  withPrivate: boolean,
): Promise<{ manifest: BackupManifest; tables: readonly DumpedTable[] }> {
  const tables: DumpedTable[] = [];
  const files: BackupManifest['files'] = [];
  const secret = withPrivate ? [] : await allPrivateValues();
  for (const name of BACKUP_TABLES) {
    if (name === 'secrets' && !withPrivate) continue;
    const rows = blankIn(await dumpTable(name), secret);
    tables.push({ name, rows: rows.length, bytes: encode(rows) });
    const kept = FILES_OF[name];
    if (!kept) continue;
    // a file that is gone can't be taken along; its record says so wherever it is restored
    for (const row of rows) {
      const hash = kept.hashOf(row) ?? null;
      const sizeBytes = hash === null ? null : await sizeInVault(kept.shelf, String(hash));
      if (sizeBytes !== null && !files.some((file) => file.sha256 === hash))
        files.push({ shelf: kept.shelf, sha256: String(hash), sizeBytes });
    }
  }
  const listed = tables.map(({ name, rows, bytes }) => ({
    name,
    rows,
    sizeBytes: bytes.length,
    sha256: sha256(bytes),
  }));
  return {
    manifest: {
      format: BACKUP_FORMAT,
      formatVersion: BACKUP_VERSION,
      madeAt: now(),
      withPrivate,
      tables: listed,
      files,
    },
    tables,
  };
}

/**
 * The whole store as one open ZIP, streamed. Every file is hashed before the first byte goes: a backup that
 * could not be restored is none.
 * @param withPrivate whether serials, tokens and codes go along
 * @throws {EternoError} `bad-hash`, `not-found` where a file of the vault was damaged or is gone
 */
export async function backupResponse(withPrivate: boolean): Promise<Response> {
  const { manifest, tables } = await dump(withPrivate);
  for (const file of manifest.files) await (await openProved(file.shelf, file.sha256)).close();
  const members = async function* (): AsyncGenerator<ZipMember> {
    yield { name: BACKUP_MANIFEST, bytes: encode(manifest), stored: false };
    for (const { name, bytes } of tables) yield { name: tablePath(name), bytes, stored: false };
    for (const file of manifest.files) {
      const source = await openInVault(file.shelf, file.sha256);
      try {
        yield { name: filePath(file), bytes: source, stored: true };
      } finally {
        await source.close();
      }
    }
  };
  const made = { version: 1, withPrivate, files: manifest.files.length };
  // a disk that is full must not keep a backup from leaving it
  await appendEvent({ at: now(), handsetId: null, roundId: null, kind: 'backup-made', data: made }).catch(
    (thrown: unknown) =>
      process.stderr.write(`The log does not know of this backup: ${toEternoError(thrown).message}\n`),
  );
  const day = new Date(now()).toISOString().slice(0, 10);
  return new Response(zipStream(members()), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="eterno-${day}.zip"`,
      'cache-control': 'no-store',
    },
  });
}

/**
 * Takes a backup in and says what is in it; nothing is restored yet.
 * @throws {EternoError} what is wrong with it; it is thrown away then
 */
export async function receiveBackup(body: AsyncIterable<Uint8Array>): Promise<BackupPreview> {
  const token = randomUUID();
  await receiveFile(token, body, LIMITS.backupBytes);
  try {
    return await withBackup(token, (opened) => previewOf(token, opened));
  } catch (thrown) {
    await forgetIncoming(token);
    throw thrown;
  }
}

interface OpenedBackup {
  readonly source: FileSource;
  readonly archive: ZipArchive;
  readonly manifest: BackupManifest;
  readonly rows: ReadonlyMap<BackupTable, readonly BackupRow[]>;
}

/** Opens a backup and reads everything in it but the vault's files, checked against its own list. */
async function withBackup<T>(token: string, work: (opened: OpenedBackup) => Promise<T>): Promise<T> {
  const source = await openFile(incomingPath(token));
  try {
    const archive = await nodePorts.openZip(source);
    const manifest = await parseManifest(await readMember(archive, BACKUP_MANIFEST, LIMITS.manifestBytes));
    const rows = new Map<BackupTable, readonly BackupRow[]>();
    for (const { name, sha256: hash, rows: count } of manifest.tables) {
      if (!isBackupTable(name))
        throw new EternoError(
          'unsupported',
          `the backup has a table “${name}” that this Eterno does not know`,
          { file: BACKUP_MANIFEST },
        );
      if (name === 'secrets' && !manifest.withPrivate)
        throw new EternoError('bad-field', 'the backup says it holds no private values, and does', {
          file: BACKUP_MANIFEST,
        });
      const bytes = await readMember(archive, tablePath(name), LIMITS.backupTableBytes);
      if (sha256(bytes) !== hash)
        throw new EternoError('bad-hash', 'a table is not what the backup’s list says', {
          file: tablePath(name),
        });
      rows.set(name, parseRows(name, bytes, count));
    }
    return await work({ source, archive, manifest, rows });
  } finally {
    await source.close();
  }
}

function parseRows(table: BackupTable, bytes: Uint8Array, count: number): BackupRow[] {
  // a list of rows, each flat
  const list = inFile(tablePath(table), () => boundedJson(bytes, { depth: 2, structures: count + 1 }));
  if (!Array.isArray(list) || list.length !== count)
    throw new EternoError('bad-field', 'a table has not the rows that the backup’s list says', {
      file: tablePath(table),
    });
  return list.map((row, i) => checkRow(table, row, i));
}

function inFile<T>(file: string, read: () => T): T {
  try {
    return read();
  } catch (thrown) {
    throw thrown instanceof EternoError ? thrown.inFile(file) : thrown;
  }
}

function entryOf(archive: ZipArchive, name: string) {
  const found = archive.entries.filter((entry) => entry.name === name);
  if (found.length > 1)
    throw new EternoError('duplicate', 'the archive holds a member twice', { file: name });
  if (!found[0])
    throw new EternoError(
      name === BACKUP_MANIFEST ? 'bad-magic' : 'not-found',
      name === BACKUP_MANIFEST ? 'this is no backup of Eterno' : 'the backup lacks a member',
      { file: name },
    );
  return found[0];
}

function readMember(archive: ZipArchive, name: string, limitBytes: number): Promise<Uint8Array> {
  return archive.readEntry(entryOf(archive, name), limitBytes);
}

async function previewOf(token: string, { manifest, rows, archive }: OpenedBackup): Promise<BackupPreview> {
  const tables = [];
  for (const [name, list] of rows) {
    const { fresh, differing } = await againstStore(name, comingAlong(name, list));
    tables.push({ name, rows: list.length, fresh: fresh.length, differing });
  }
  let filesHere = 0;
  for (const file of manifest.files) {
    entryOf(archive, filePath(file));
    if (await isWhole(file.shelf, file.sha256)) filesHere += 1;
  }
  const bytes = manifest.files.reduce((sum, file) => sum + file.sizeBytes, 0);
  return {
    token,
    madeAt: manifest.madeAt,
    withPrivate: manifest.withPrivate,
    files: manifest.files.length,
    bytes,
    tables,
    filesHere,
  };
}

/** Whether a page may reach real handsets is agreed to on each computer anew. */
const comingAlong = (name: BackupTable, rows: readonly BackupRow[]): readonly BackupRow[] =>
  name === 'settings' ? rows.filter(({ key }) => key !== CABLE && !String(key).startsWith(CABLE_FOR)) : rows;

/** Nothing runs in a store that was just restored. */
const settled = (row: BackupRow): BackupRow =>
  row.state === 'running' ? { ...row, state: 'interrupted' } : row;

/**
 * Restores a backup as a job: files first, each hashed on its way in, then all rows in one transaction. What
 * is here already stays as it is, but for damaged files, which are mended; a failure leaves the store as it
 * was. Two restores run one after the other.
 */
export async function restoreBackup(token: string): Promise<JobView> {
  return startJob({ kind: 'restore', title: 'Restore a backup', roundId: null }, (watch) =>
    oneAtATime('restore', () => withBackup(token, (opened) => restore(token, opened, watch))),
  );
}

async function restore(
  token: string,
  { archive, manifest, rows }: OpenedBackup,
  { signal, onProgress }: Required<Watch>,
): Promise<void> {
  const totalBytes = manifest.files.reduce((sum, file) => sum + file.sizeBytes, 0);
  const brought: BackupManifest['files'] = [];
  let [doneBytes, restored] = [0, 0];
  try {
    for (const file of manifest.files) {
      throwIfAborted(signal);
      if (!(await isWhole(file.shelf, file.sha256, signal))) {
        const { source, check } = await archive.openEntry(entryOf(archive, filePath(file)));
        if ((await sizeInVault(file.shelf, file.sha256)) === null) brought.push(file);
        await putInVault(file.shelf, file.sha256, readPieces(source, undefined, signal), file.sizeBytes);
        await check(signal);
        restored += 1;
      }
      doneBytes += file.sizeBytes;
      onProgress({ phase: 'files', doneBytes, totalBytes });
    }
    const fresh = new Map<BackupTable, readonly BackupRow[]>();
    for (const [name, list] of rows) {
      const { fresh: rowsOf } = await againstStore(name, comingAlong(name, list));
      fresh.set(name, rowsOf.map(settled));
    }
    throwIfAborted(signal);
    await insertRows(fresh);
  } catch (thrown) {
    // a file that something speaks of meanwhile stays, whoever brought it
    const named = new Set((await dump(false)).manifest.files.map((file) => file.sha256));
    for (const { shelf, sha256: hash } of brought)
      if (!named.has(hash)) await rm(vaultPath(shelf, hash), { force: true });
    throw thrown;
  }
  await appendEvent({
    at: now(),
    handsetId: null,
    roundId: null,
    kind: 'backup-restored',
    data: { version: 1, madeAt: manifest.madeAt, files: restored },
  });
  await forgetIncoming(token);
}
