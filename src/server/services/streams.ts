import 'server-only';
import { EternoError, throwIfAborted } from '@/core/errors';
import type { FileSource } from '@/platform/node/file-source';
import { readPieces } from '@/core/bytes/byte-source';

/** A body in pieces; empty where the request has none. */
export async function* bodyPieces(request: Request): AsyncGenerator<Uint8Array> {
  if (!request.body) return;
  const reader = request.body.getReader();
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    reader.releaseLock();
  }
}

/** A few pieces as one. */
export async function joined(pieces: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const all: Uint8Array[] = [];
  for await (const piece of pieces) all.push(piece);
  return Buffer.concat(all);
}

/** A small body, whole. @throws {EternoError} `too-large` */
export async function bodyBytes(request: Request, mostBytes: number): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of bodyPieces(request)) {
    size += piece.length;
    if (size > mostBytes) throw new EternoError('too-large', `more than ${mostBytes} bytes came`);
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}
/** What a panel's button sends is a few words. */
const JSON_BYTES = 64 * 1024;
/** @throws {EternoError} `too-large`, `bad-field` for what is no JSON */
export async function bodyJson(request: Request): Promise<unknown> {
  try {
    return JSON.parse(new TextDecoder().decode(await bodyBytes(request, JSON_BYTES)));
  } catch (thrown) {
    if (thrown instanceof EternoError) throw thrown;
    throw new EternoError('bad-field', 'This request holds no JSON.', { cause: thrown });
  }
}

/** What a form has besides its bytes. */
const FORM_EXTRA_BYTES = 2 * 1024 * 1024;
/** A form with bytes in it. @throws {EternoError} `too-large`, `bad-field` for what is no form */
export async function bodyForm(request: Request, mostBytes: number): Promise<FormData> {
  const bytes = await bodyBytes(request, mostBytes + FORM_EXTRA_BYTES);
  const headers = { 'content-type': request.headers.get('content-type') ?? '' };
  return new Response(bytes as Uint8Array<ArrayBuffer>, { headers }).formData().catch((thrown: unknown) => {
    throw new EternoError('bad-field', 'This request holds no form.', { cause: thrown });
  });
}
/** @throws {EternoError} `bad-field` where the form has no such bytes */
export async function formBytes(form: FormData, name: string): Promise<Uint8Array> {
  const part = form.get(name);
  if (!(part instanceof Blob)) throw new EternoError('bad-field', `The form has no ${name}.`);
  return new Uint8Array(await part.arrayBuffer());
}

export const bodyText = async (request: Request, mostBytes: number) =>
  new TextDecoder().decode(await bodyBytes(request, mostBytes));

export async function* onePiece(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/** A name that every disk takes as it is, so that a command that names the file finds it. */
export const safeFileName = (name: string) => name.replace(/[^A-Za-z0-9._-]/g, '_');

/**
 * A vault file as a download. Its size goes in a header of its own, because streamed answers lose
 * `content-length`.
 */
export function fileResponse(source: FileSource, fileName: string): Response {
  const pieces = readPieces(source);
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
      if (!done) return controller.enqueue(value);
      await source.close();
      controller.close();
    },
    cancel: () => source.close(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename="${safeFileName(fileName)}"`,
      'x-file-size': String(source.size),
      'cache-control': 'no-store',
    },
  });
}

/** Server-sent events: `start` is given a sender, and what ends the stream, and returns what is done at its end. */
export function eventStream(
  signal: AbortSignal,
  start: (send: (data: object, id?: number) => void, end: () => void) => () => void,
): Response {
  const text = new TextEncoder();
  let stop: () => void = () => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      let open = true;
      const write = (line: string) => {
        if (open) controller.enqueue(text.encode(line));
      };
      write('retry: 1000\n\n');
      const beat = setInterval(() => write(': \n\n'), 15_000);
      const end = start(
        (data, id) => write(`${id === undefined ? '' : `id: ${id}\n`}data: ${JSON.stringify(data)}\n\n`),
        () => stop(),
      );
      stop = () => {
        if (!open) return;
        open = false;
        clearInterval(beat);
        end();
        try {
          controller.close();
        } catch {
          // the browser was faster
        }
      };
      signal.addEventListener('abort', stop, { once: true });
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}

/** @throws {EternoError} `cancelled`, `truncated` */
function orStopped<T>(work: Promise<T>, signal: AbortSignal): Promise<T> {
  let over = () => undefined as void;
  return new Promise<T>((resolve, reject) => {
    const stop = () => reject(new EternoError('cancelled', 'Stopped on request.'));
    const silent = setTimeout(
      () => reject(new EternoError('truncated', 'the package stopped coming')),
      SILENT_MS,
    );
    signal.addEventListener('abort', stop, { once: true });
    over = () => {
      clearTimeout(silent);
      signal.removeEventListener('abort', stop);
    };
    work.then(resolve, reject);
  }).finally(() => over());
}

/** A browser that sends nothing for so long sends nothing any more. */
const SILENT_MS = 60_000;

/**
 * Pieces as they come, until the job is stopped or the sender falls silent.
 * @throws {EternoError} `cancelled`, `truncated`
 */
export async function* stoppable(
  pieces: AsyncIterable<Uint8Array>,
  signal: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const iterator = pieces[Symbol.asyncIterator]();
  for (;;) {
    throwIfAborted(signal);
    const next = await orStopped(iterator.next(), signal);
    if (next.done === true) return;
    yield next.value;
  }
}

/**
 * Cuts what comes into files of known sizes, one after another: each has to be read to its end before the
 * next.
 */
export function cutPieces(pieces: AsyncIterable<Uint8Array>): (bytes: number) => AsyncGenerator<Uint8Array> {
  const iterator = pieces[Symbol.asyncIterator]();
  let rest = new Uint8Array(0) as Uint8Array;
  return async function* (bytes) {
    for (let left = bytes; left > 0;) {
      if (rest.length === 0) {
        const next = await iterator.next();
        if (next.done === true) return;
        rest = next.value;
      }
      const piece = rest.subarray(0, left);
      rest = rest.subarray(piece.length);
      left -= piece.length;
      yield piece;
    }
  };
}
