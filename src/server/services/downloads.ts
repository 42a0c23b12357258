import 'server-only';
import type { FileHandle } from 'node:fs/promises';
import { mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { DownloadView } from '@/contracts/download-view';
import type { JobView } from '@/contracts/job-view';
import { sha256OfSource } from '@/core/bytes/digest';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import type { ListedLine } from '@/core/finding/listed-builds';
import { LIMITS } from '@/core/limits';
import { openFile } from '@/platform/node/file-source';
import { nodeDigests } from '@/platform/node/node-digests';
import { dataDir } from '../db/data-dir';
import { freeBytes } from './incoming';
import type { JobWatch } from './jobs';
import { startJob } from './jobs';
import { fileResponse } from './streams';

/*
 * Files of the download page on their way to this computer: each under its hash, kept in part where it was stopped,
 * and offered only once its hash is the one that the page states.
 */

const SHA256 = /^[0-9a-f]{64}$/;
const downloadsDir = () => join(/*turbopackIgnore: true*/ dataDir(), 'downloads');

/** @throws {EternoError} `unsafe-path` */
function pathOf(sha256: string, state: 'part' | 'whole'): string {
  if (!SHA256.test(sha256)) throw new EternoError('unsafe-path', 'this is no SHA-256');
  return join(/*turbopackIgnore: true*/ downloadsDir(), `${sha256}.${state}`);
}

const sizeOf = (path: string): Promise<number | null> =>
  stat(/*turbopackIgnore: true*/ path).then(
    ({ size }) => size,
    () => null,
  );

/** A line whose file can be fetched and proved. */
interface Fetchable extends ListedLine {
  readonly file: string;
  readonly sha256: string;
  readonly sizeBytes: number;
}
const isFetchable = (line: ListedLine): line is Fetchable =>
  line.file !== null && line.sha256 !== null && line.sizeBytes !== null;

/** Fetches under way, by hash. */
const held = globalThis as { eternoFetches?: Map<string, string> };
const fetches = () => (held.eternoFetches ??= new Map());

/** Files of these lines that are here, whole or in part. */
export async function downloadViews(lines: readonly ListedLine[]): Promise<DownloadView[]> {
  const there = new Set(await readdir(downloadsDir()).catch(() => [] as string[]));
  const views: DownloadView[] = [];
  for (const line of lines) {
    if (!isFetchable(line) || views.some(({ sha256 }) => sha256 === line.sha256)) continue;
    const { sha256, file: name, sizeBytes: size } = line;
    const jobId = fetches().get(sha256) ?? null;
    const about = { sha256, name, size, jobId };
    if (there.has(`${sha256}.whole`)) views.push({ ...about, have: size, state: 'whole', jobId: null });
    else if (jobId !== null || there.has(`${sha256}.part`))
      views.push({
        ...about,
        have: (await sizeOf(pathOf(sha256, 'part'))) ?? 0,
        state: jobId === null ? 'part' : 'coming',
      });
  }
  return views;
}

/** @throws {EternoError} `refused` where the disk has no room for what is missing */
async function needRoom(missing: number): Promise<void> {
  const free = await freeBytes();
  if (free !== null && free < missing)
    throw new EternoError(
      'refused',
      `This computer has ${free} bytes free, and ${missing} are still to come. Make room first.`,
    );
}

/** Asks for the file from a byte on. @returns the byte that the answer begins at: 0 where it begins anew */
async function askFor(
  url: string,
  { sha256 }: Fetchable,
  from: number,
  signal: AbortSignal,
): Promise<{ readonly body: AsyncIterable<Uint8Array>; readonly from: number }> {
  const headers: Record<string, string> =
    from === 0 ? {} : { range: `bytes=${from}-`, 'if-range': `"${sha256}"` };
  const response = await fetch(url, { headers, signal, redirect: 'error', cache: 'no-store' });
  if (response.status === 404)
    throw new EternoError(
      'not-found',
      'The page does not offer this file any more. Nothing more was fetched.',
    );
  if (!response.ok || response.body === null)
    throw new EternoError('link-lost', `The download page answers with ${response.status}.`);
  const begins = /^bytes (\d+)-/.exec(response.headers.get('content-range') ?? '')?.[1];
  return {
    body: response.body as unknown as AsyncIterable<Uint8Array>,
    from: response.status === 206 && Number(begins) === from ? from : 0,
  };
}

/** Takes what is missing to disk, behind what is there. */
async function fetchRest(url: string, line: Fetchable, { signal, onProgress }: JobWatch): Promise<void> {
  const path = pathOf(line.sha256, 'part');
  const have = (await sizeOf(path)) ?? 0;
  const asked = have < line.sizeBytes ? have : 0;
  await needRoom(line.sizeBytes - asked);
  onProgress({ phase: 'fetch', doneBytes: asked, totalBytes: line.sizeBytes });
  const { body, from } = await askFor(url, line, asked, signal);
  const file: FileHandle = await open(/*turbopackIgnore: true*/ path, from === 0 ? 'w' : 'r+');
  try {
    let at = from;
    for await (const piece of body) {
      throwIfAborted(signal);
      if (at + piece.length > line.sizeBytes)
        throw new EternoError('too-large', 'More came than the page said. Nothing of it is used.');
      for (let done = 0; done < piece.length;)
        done += (await file.write(piece, done, piece.length - done, at + done)).bytesWritten;
      at += piece.length;
      onProgress({ phase: 'fetch', doneBytes: at, totalBytes: line.sizeBytes });
    }
    await file.truncate(at);
    await file.sync();
    if (at !== line.sizeBytes)
      throw new EternoError(
        'truncated',
        `It ended after ${at} of ${line.sizeBytes} bytes. What came is kept: go on from there.`,
      );
  } finally {
    await file.close();
  }
}

/** What a reader of the network throws in the middle: the line is gone; what came is kept. */
function asLost(thrown: unknown, signal: AbortSignal): EternoError {
  if (signal.aborted) return toEternoError(signal.reason);
  return thrown instanceof EternoError
    ? thrown
    : new EternoError('link-lost', 'The connection broke. What came is kept: go on from there.', {
        cause: thrown,
      });
}

/** @throws {EternoError} `bad-hash` where it is not what the page states; it is thrown away then */
async function prove({ sha256 }: Fetchable, { signal, onProgress }: JobWatch): Promise<void> {
  const path = pathOf(sha256, 'part');
  const source = await openFile(path);
  let got: string;
  try {
    got = await sha256OfSource(nodeDigests, source, signal, (doneBytes) =>
      onProgress({ phase: 'hash', doneBytes, totalBytes: source.size }),
    );
  } finally {
    await source.close();
  }
  if (got !== sha256) {
    await rm(/*turbopackIgnore: true*/ path, { force: true });
    throw new EternoError(
      'bad-hash',
      'What came has another hash than the page states, so it was thrown away. Fetch it once more.',
      { details: { expected: sha256, got } },
    );
  }
  await rename(/*turbopackIgnore: true*/ path, /*turbopackIgnore: true*/ pathOf(sha256, 'whole'));
}

/**
 * Fetches a file of the page, or goes on where it was stopped, as a job.
 * @param address of the page
 * @throws {EternoError} `bad-field` for a line without file, size or hash, `conflict` while it is fetched already,
 *   `too-large`
 */
export async function startFetch(address: string, line: ListedLine): Promise<JobView> {
  if (!isFetchable(line))
    throw new EternoError('bad-field', 'The page states no file, size and hash for this line.');
  const { sha256, file, sizeBytes } = line;
  if (sizeBytes > LIMITS.sideloadBytes) throw new EternoError('too-large', `${file} is ${sizeBytes} bytes.`);
  if (fetches().has(sha256)) throw new EternoError('conflict', 'It is being fetched already.');
  fetches().set(sha256, '');
  try {
    await mkdir(downloadsDir(), { recursive: true });
    const job = await startJob({ kind: 'fetch', title: `Fetch ${file}`, roundId: null }, async (watch) => {
      try {
        const url = `${address}/files/${encodeURIComponent(file)}`;
        await fetchRest(url, line, watch).catch((thrown: unknown) => {
          throw asLost(thrown, watch.signal);
        });
        await prove(line, watch);
      } finally {
        fetches().delete(sha256);
      }
    });
    if (fetches().has(sha256)) fetches().set(sha256, job.id);
    return job;
  } catch (thrown) {
    fetches().delete(sha256);
    throw thrown;
  }
}

/** A file that was fetched whole, on its way to the page that opens it. @throws {EternoError} `not-found` */
export const downloadedFile = async (sha256: string, name: string): Promise<Response> =>
  fileResponse(await openFile(pathOf(sha256, 'whole')), name);

/** Throws away what came of a file. @throws {EternoError} `conflict` while it is fetched */
export async function forgetDownload(sha256: string): Promise<void> {
  if (fetches().has(sha256)) throw new EternoError('conflict', 'Stop it first: it is being fetched.');
  for (const state of ['part', 'whole'] as const)
    await rm(/*turbopackIgnore: true*/ pathOf(sha256, state), { force: true });
}
