import 'server-only';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { DownloadPageView } from '@/contracts/download-view';
import type { JobView } from '@/contracts/job-view';
import { EternoError, toEternoError } from '@/core/errors';
import type { ListedLine } from '@/core/finding/listed-builds';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { dataDir } from '../db/data-dir';
import { DOWNLOAD_PAGE } from '../db/setting-keys';
import { appendEvent } from '../repositories/event-repository';
import { listBuilds, recordBuild } from '../repositories/image-repository';
import { readSetting, writeSetting } from '../repositories/setting-repository';
import { readSubjects } from './bench-reading';
import { now } from './clock';
import { downloadViews, startFetch } from './downloads';
import { judgeFor, readList } from './listed-builds';
import { publish } from './message-bus';
import { joined } from './streams';

/*
 * The download page of a maker, as far as it is on this machine: the stand-in of one that ships with Eterno. Eterno
 * itself opens no connection to anywhere else (docs/architecture.md, "The download page").
 */

const LIST_BYTES = 4 * 1024 * 1024;
const ANSWER_MS = 5000;

/** What was read of it, and when. */
export interface PageRead {
  readonly version: 1;
  readonly at: number;
  readonly lines: readonly ListedLine[];
}

/** Where it answers; null where none runs. */
export async function pageAddress(): Promise<string | null> {
  try {
    const text = await readFile(
      /*turbopackIgnore: true*/ join(dataDir(), 'run', 'download-page.json'),
      'utf8',
    );
    const { pid, port } = JSON.parse(text) as { readonly pid: number; readonly port: number };
    process.kill(pid, 0);
    return Number.isInteger(port) && port > 0 && port < 65_536 ? `http://127.0.0.1:${port}` : null;
  } catch {
    return null;
  }
}

/** As it was read last; null where it never was. */
export async function lastRead(): Promise<PageRead | null> {
  const text = await readSetting(DOWNLOAD_PAGE);
  return text === null ? null : (JSON.parse(text) as PageRead);
}

/** @throws {EternoError} `link-lost` where it does not answer, `too-large`, `bad-field` */
async function readPage(address: string): Promise<ListedLine[]> {
  const response = await fetch(`${address}/builds.json`, {
    signal: AbortSignal.timeout(ANSWER_MS),
    redirect: 'error',
    cache: 'no-store',
  }).catch((thrown: unknown) => {
    throw new EternoError('link-lost', 'The download page does not answer.', { cause: thrown });
  });
  if (!response.ok || response.body === null)
    throw new EternoError('link-lost', `The download page answers with ${response.status}.`);
  return readList(new TextDecoder().decode(await joined(limited(response.body, LIST_BYTES))));
}

async function* limited(body: ReadableStream<Uint8Array>, most: number): AsyncGenerator<Uint8Array> {
  let size = 0;
  for await (const piece of body as unknown as AsyncIterable<Uint8Array>) {
    size += piece.length;
    if (size > most) throw new EternoError('too-large', `The list is longer than ${most} bytes.`);
    yield piece;
  }
}

/** A build of a handset on the bench that was not known before stands in calendar and bench from now on. */
async function noteNewBuilds(lines: readonly ListedLine[]): Promise<boolean> {
  const subjects = await readSubjects();
  const products = new Set(
    subjects.flatMap(({ facts }) => splitFingerprint(facts.typed.fingerprint ?? '')?.product ?? []),
  );
  const known = new Set((await listBuilds()).map(({ fingerprint }) => fingerprint));
  let fresh = false;
  for (const { fingerprint, patchLevel, published } of lines) {
    const parts = fingerprint === null ? null : splitFingerprint(fingerprint);
    if (!parts || fingerprint === null || known.has(fingerprint) || !products.has(parts.product)) continue;
    const at = Date.parse(published ?? patchLevel ?? '');
    if (!Number.isFinite(at)) continue;
    const { device, product, id: buildId } = parts;
    await recordBuild({ fingerprint, device, product, buildId, patchLevel, publishedAt: at });
    await appendEvent({
      at: now(),
      handsetId: null,
      roundId: null,
      kind: 'build-out',
      data: { version: 1, fingerprint, buildId, product },
    });
    known.add(fingerprint);
    fresh = true;
  }
  return fresh;
}

/**
 * Reads the page, and notes what has come out.
 * @returns what it offers; null where none runs on this machine
 * @throws {EternoError} `link-lost` where it does not answer, and of `readList`
 */
export async function lookAtPage(): Promise<PageRead | null> {
  const address = await pageAddress();
  if (address === null) return null;
  const read: PageRead = { version: 1, at: now(), lines: await readPage(address) };
  const before = await lastRead();
  await writeSetting(DOWNLOAD_PAGE, JSON.stringify(read));
  const changed = JSON.stringify(before?.lines) !== JSON.stringify(read.lines);
  if ((await noteNewBuilds(read.lines)) || changed) publish({ type: 'builds' });
  return read;
}

/**
 * Fetches a file that the page offers, or goes on where it was stopped.
 * @throws {EternoError} `link-lost` where no page answers, `not-found` where it does not offer that, and of `startFetch`
 */
export async function fetchFromPage(sha256: string): Promise<JobView> {
  const address = await pageAddress();
  const read = await lookAtPage();
  if (address === null || read === null)
    throw new EternoError('link-lost', 'No download page runs on this machine.');
  const line = read.lines.find((one) => one.sha256 === sha256);
  if (!line) throw new EternoError('not-found', 'The page does not offer this file any more.');
  return startFetch(address, line);
}

const LOOK_MS = 30_000;

/** Looks again and again as long as the server runs; a page that is gone is no news. */
export function watchPage(): void {
  const look = () => void lookAtPage().catch(() => null);
  look();
  setInterval(look, LOOK_MS).unref();
}

/** The page against every handset; null where there is none and never was. */
export async function downloadPageView(): Promise<DownloadPageView | null> {
  const read = await lookAtPage().then(
    (fresh) => ({ fresh, answers: fresh !== null }),
    (thrown: unknown) => {
      if (toEternoError(thrown).code === 'internal') throw thrown;
      return { fresh: null, answers: false };
    },
  );
  const page = read.fresh ?? (await lastRead());
  if (page === null) return null;
  const handsets = [];
  for (const { handset, facts } of await readSubjects())
    handsets.push({
      id: handset.id,
      name: handset.name,
      list: facts.typed.fingerprint === null ? null : await judgeFor(handset.id, page.lines),
    });
  return {
    title: 'The maker’s download page',
    readAt: page.at,
    answers: read.answers,
    handsets,
    downloads: await downloadViews(page.lines),
  };
}
