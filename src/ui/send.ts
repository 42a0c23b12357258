import type { FindTarget } from '@/contracts/find-target';
import type { PackageJudgement } from '@/contracts/firmware-view';
import type { LogImport } from '@/contracts/log-view';
import type { ErrorData } from '@/core/errors';
import { EternoError } from '@/core/errors';
import type { OpenedFile } from '@/core/packages/partial-source';

async function answer(request: Promise<Response>): Promise<Response> {
  const response = await request.catch((thrown: unknown) => {
    throw new EternoError('io', 'Eterno’s server does not answer.', { cause: thrown });
  });
  if (!response.ok) throw EternoError.fromData(((await response.json()) as { error: ErrorData }).error);
  return response;
}

const put = async (path: string, body: ArrayBuffer | Blob) =>
  void (await answer(fetch(path, { method: 'PUT', body })));

/**
 * Sends an image to the vault under its hash; the server hashes it again.
 * @throws {EternoError} what the server found wrong
 */
export function sendImage(
  sha256: string,
  image: Blob,
  origin: Readonly<Record<string, string>>,
): Promise<void> {
  return put(`/api/images/${sha256}?${new URLSearchParams(origin)}`, image);
}

/**
 * Has the server open a package from the ranges of its files that opening it reads.
 * @throws {EternoError} what is wrong with it; `not-found` where the server wants to read more
 */
export async function sendOpening(
  parts: readonly { readonly file: File; readonly ranges: OpenedFile['ranges'] }[],
): Promise<PackageJudgement> {
  const body = new FormData();
  body.set(
    'files',
    JSON.stringify(parts.map(({ file: { name, size }, ranges }) => ({ name, size, ranges }))),
  );
  body.set(
    'bytes',
    new Blob(parts.flatMap(({ file, ranges }) => ranges.map(([start, end]) => file.slice(start, end)))),
  );
  return (await answer(fetch('/api/packages', { method: 'POST', body }))).json() as Promise<PackageJudgement>;
}

/** What the search finds for some words. */
export async function findTargets(text: string, signal: AbortSignal): Promise<readonly FindTarget[]> {
  return (await answer(fetch(`/api/find?${new URLSearchParams({ text })}`, { signal }))).json() as Promise<
    readonly FindTarget[]
  >;
}

/**
 * Sends a kit to the vault; the server reads all of it before it is kept.
 * @throws {EternoError} `kit-invalid` and what else is wrong
 */
export function sendKit(sha256: string, bytes: ArrayBuffer, name: string): Promise<void> {
  return put(`/api/kits/${sha256}?${new URLSearchParams({ name })}`, bytes);
}

/** Sends a module's ZIP; the server reads what it holds. @throws {EternoError} what is wrong with it */
export function sendModule(sha256: string, bytes: ArrayBuffer, name: string): Promise<void> {
  return put(`/api/modules/${sha256}?${new URLSearchParams({ name })}`, bytes);
}

/**
 * Sends an install package; the server keeps it and every image in it.
 * @returns the partitions that it writes
 * @throws {EternoError} `refused` where not all of what it writes is told, and what is wrong with it
 */
export async function sendInstall(
  sha256: string,
  bytes: ArrayBuffer,
  name: string,
): Promise<readonly string[]> {
  const sent = await answer(
    fetch(`/api/installs/${sha256}?${new URLSearchParams({ name })}`, { method: 'PUT', body: bytes }),
  );
  return ((await sent.json()) as { readonly partitions: readonly string[] }).partitions;
}

/** Longer than any key or touch takes: one that hangs must not hold back those after it. */
const TOUCH_MS = 20_000;

/**
 * What its panel does to a stand-in: a key, a touch, a fault.
 * @returns what it answers
 * @throws {EternoError} what it refused, `io`
 */
export async function tellStandIn(path: string, body: object): Promise<unknown> {
  const request = {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  };
  const signal = AbortSignal.timeout(TOUCH_MS);
  return (await answer(fetch(`/api/stand-in/${path}`, { ...request, signal }))).json();
}

/**
 * A note at a round or step, with a picture where there is one.
 * @throws {EternoError} `unsupported`, `too-large`, `bad-field`
 */
export async function sendNote(note: Readonly<Record<string, string>>, picture: Blob | null): Promise<void> {
  await answer(fetch(`/api/notes?${new URLSearchParams(note)}`, { method: 'POST', body: picture }));
}

/**
 * What a log would bring in; with `apply` it is brought in.
 * @throws {EternoError} `bad-magic`, `unsupported`, `bad-field`
 */
export async function sendLog(text: string, apply: boolean): Promise<LogImport> {
  return (
    await answer(fetch(`/api/log?apply=${apply ? 'yes' : 'no'}`, { method: 'POST', body: text }))
  ).json() as Promise<LogImport>;
}

/** A calendar file; each UID is kept once. @throws {EternoError} `bad-magic`, `bad-field`, `too-large` */
export async function sendCalendar(
  text: string,
): Promise<{ fresh: number; changed: number; same: number; ours: number }> {
  return (await answer(fetch('/api/calendar', { method: 'POST', body: text }))).json() as Promise<{
    fresh: number;
    changed: number;
    same: number;
    ours: number;
  }>;
}

/** A file of the download page that is here whole. @throws {EternoError} `not-found`, `io` */
export async function fetchDownload(sha256: string, name: string): Promise<File> {
  const sent = await answer(fetch(`/api/downloads/${sha256}?${new URLSearchParams({ name })}`));
  return new File([await sent.blob()], name);
}

/** An image or kit of the vault. @throws {EternoError} `not-found`, `io` */
export async function fetchFromVault(shelf: 'images' | 'kits', sha256: string): Promise<Blob> {
  return (await answer(fetch(`/api/${shelf}/${sha256}`))).blob();
}

/** Sends a backup, with progress. @throws {EternoError} what is wrong with it, `cancelled`, `io` */
export function sendBackup<T>(
  file: File,
  onProgress: (doneBytes: number) => void,
  signal: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    // the one request that tells how far a body has gone
    const request = new XMLHttpRequest();
    request.open('POST', '/api/store/backup');
    request.upload.onprogress = (event) => onProgress(event.loaded);
    request.onload = () => {
      try {
        const body = JSON.parse(request.responseText) as T & { error?: ErrorData };
        if (request.status < 400) resolve(body);
        else
          throw body.error
            ? EternoError.fromData(body.error)
            : new EternoError('io', 'Eterno’s server did not take it.');
      } catch (thrown) {
        reject(
          thrown instanceof EternoError
            ? thrown
            : new EternoError('io', 'Eterno’s server gave no answer that can be read.', { cause: thrown }),
        );
      }
    };
    request.onerror = () => reject(new EternoError('io', 'Eterno’s server does not answer.'));
    request.onabort = () => reject(new EternoError('cancelled', 'stopped'));
    signal.addEventListener('abort', () => request.abort(), { once: true });
    request.send(file);
  });
}
