import { createReadStream } from 'node:fs';
import { mkdir, readFile, rm, stat } from 'node:fs/promises';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import { join } from 'node:path';
import Papa from 'papaparse';
import type { Clock } from '@/core/clock';
import { sleep } from '@/core/clock';
import { EternoError } from '@/core/errors';
import { writeFileWhole } from '@/platform/node/file-sink';

/*
 * A small stand-in of a maker's download page: a process of its own on this machine, which lists builds and gives
 * their files, from any byte on. Its folder holds `page.json`; the files lie in the folder that is named there.
 */

/** One line of the page, as its list has it; sizes in bytes. */
export interface OfferedBuild {
  readonly build: string;
  readonly variant: string;
  readonly fingerprint: string;
  /** Beginnings of the serials that it is for, or `all`. */
  readonly serials: string;
  readonly label: string;
  readonly published: string;
  readonly patchLevel: string;
  readonly file: string;
  readonly size: number;
  readonly sha256: string;
  /** So long after the page was started it is listed, in seconds; from the beginning where it is missing. */
  readonly after?: number;
}

export interface OfferedPage {
  readonly version: 1;
  readonly title: string;
  /** How fast it gives files; as fast as it goes where it is missing. */
  readonly bytesPerSecond?: number;
  readonly builds: readonly OfferedBuild[];
}

export interface PageRun {
  readonly pid: number;
  readonly port: number;
}

export interface RunningPage {
  readonly run: PageRun;
  close(): Promise<void>;
}

export interface PageOptions {
  /** Eterno's data folder. */
  readonly dataDir: string;
  /** 0 takes a free one. */
  readonly port: number;
  readonly clock: Clock;
}

export const pageFile = (dataDir: string) => join(dataDir, 'download-page', 'page.json');
/** What may be asked for lies here, and nothing else is given. */
export const pageFiles = (dataDir: string) => join(dataDir, 'packages');
export const pageRunFile = (dataDir: string) => join(dataDir, 'run', 'download-page.json');

/** @throws {EternoError} `not-found` where none was made */
async function readPage(dataDir: string): Promise<OfferedPage> {
  const text = await readFile(pageFile(dataDir), 'utf8').catch(() => null);
  if (text === null)
    throw new EternoError('not-found', 'no download page was made; make the demo data first');
  return JSON.parse(text) as OfferedPage;
}

const COLUMNS = [
  'build',
  'variant',
  'serials',
  'label',
  'published',
  'patchLevel',
  'size',
  'sha256',
  'file',
  'fingerprint',
] as const;

const escaped = (text: string) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

function asHtml({ title }: OfferedPage, builds: readonly OfferedBuild[]): string {
  const cells = (tag: string, texts: readonly string[]) =>
    texts.map((text) => `<${tag}>${escaped(text)}</${tag}>`).join('');
  const rows = builds.map(
    (one) =>
      `<tr>${cells(
        'td',
        COLUMNS.map((name) => String(one[name])),
      )}</tr>`,
  );
  return `<!doctype html><meta charset="utf-8"><title>${escaped(title)}</title><h1>${escaped(title)}</h1><table><tr>${cells('th', COLUMNS)}</tr>${rows.join('')}</table>\n`;
}

/** `bytes=N-`; 0 where nothing was asked, null where it can't be given. */
function fromByte(range: string | undefined, size: number): number | null {
  if (range === undefined) return 0;
  const from = /^bytes=(\d{1,15})-$/.exec(range)?.[1];
  return from !== undefined && Number(from) < size ? Number(from) : null;
}

const PIECE = 256 * 1024;

/** A page with its clock: what is listed grows as time passes. */
class Page {
  private readonly began: number;
  constructor(
    private readonly dataDir: string,
    private readonly clock: Clock,
  ) {
    this.began = clock.now();
  }

  async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { pathname } = new URL(request.url ?? '/', 'http://127.0.0.1');
    const page = await readPage(this.dataDir);
    const seconds = (this.clock.now() - this.began) / 1000;
    const builds = page.builds.filter(({ after = 0 }) => after <= seconds);
    const say = (type: string, text: string) => {
      response.writeHead(200, { 'content-type': `${type}; charset=utf-8` }).end(text);
    };
    const listed = builds.map(({ after: _after, ...one }) => one);
    if (pathname === '/') return say('text/html', asHtml(page, builds));
    if (pathname === '/builds.json') return say('application/json', JSON.stringify({ builds: listed }));
    if (pathname === '/builds.csv') return say('text/csv', Papa.unparse(listed, { columns: [...COLUMNS] }));
    const wanted = builds.find(({ file }) => pathname === `/files/${encodeURIComponent(file)}`);
    if (!wanted) return void response.writeHead(404).end();
    return this.give(page, wanted, request, response);
  }

  private async give(
    { bytesPerSecond }: OfferedPage,
    { file, sha256 }: OfferedBuild,
    { headers }: IncomingMessage,
    response: ServerResponse,
  ): Promise<void> {
    const path = join(pageFiles(this.dataDir), file);
    const { size } = await stat(path);
    const tag = `"${sha256}"`;
    const same = headers['if-range'] === undefined || headers['if-range'] === tag;
    const from = same ? fromByte(headers.range, size) : 0;
    if (from === null) return void response.writeHead(416, { 'content-range': `bytes */${size}` }).end();
    response.writeHead(from === 0 ? 200 : 206, {
      'content-type': 'application/octet-stream',
      'content-length': size - from,
      'accept-ranges': 'bytes',
      etag: tag,
      ...(from === 0 ? {} : { 'content-range': `bytes ${from}-${size - 1}/${size}` }),
    });
    for await (const piece of createReadStream(path, { start: from, highWaterMark: PIECE })) {
      if (response.destroyed) return;
      response.write(piece);
      if (bytesPerSecond !== undefined)
        await sleep(this.clock, ((piece as Uint8Array).length / bytesPerSecond) * 1000);
    }
    response.end();
  }
}

const listen = (server: Server, port: number): Promise<number> =>
  new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve((server.address() as { port: number }).port));
  });

/** @throws {EternoError} `not-found` where no page was made */
export async function runDownloadPage({ dataDir, port, clock }: PageOptions): Promise<RunningPage> {
  await readPage(dataDir);
  const page = new Page(dataDir, clock);
  const server = createServer((request, response) => {
    page.answer(request, response).catch(() => response.destroy());
  });
  const run: PageRun = { pid: process.pid, port: await listen(server, port) };
  await mkdir(join(dataDir, 'run'), { recursive: true, mode: 0o700 });
  await writeFileWhole(pageRunFile(dataDir), new TextEncoder().encode(JSON.stringify(run)));
  return {
    run,
    async close() {
      server.closeAllConnections();
      await new Promise<void>((resolve) => server.close(() => resolve()));
      await rm(pageRunFile(dataDir), { force: true });
    },
  };
}
