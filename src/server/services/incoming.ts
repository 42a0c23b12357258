import 'server-only';
import { mkdir, readdir, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { EternoError } from '@/core/errors';
import { fileSink } from '@/platform/node/file-sink';
import { dataDir } from '../db/data-dir';

/*
 * Large files that a person sends and that are looked at before anything is done with them. Only a token ever
 * becomes part of a path.
 */

const incomingDir = () => join(/*turbopackIgnore: true*/ dataDir(), 'incoming');
const TOKEN = /^[0-9a-f-]{36}$/;

/** @throws {EternoError} `unsafe-path` */
export function incomingPath(token: string): string {
  if (!TOKEN.test(token)) throw new EternoError('unsafe-path', 'this is no token of a file that came in');
  return join(/*turbopackIgnore: true*/ incomingDir(), `${token}.zip`);
}

/** Takes a file to disk as it comes. @throws {EternoError} `too-large`; nothing of it is left then */
export async function receiveFile(
  token: string,
  body: AsyncIterable<Uint8Array>,
  mostBytes: number,
  onSize?: (doneBytes: number) => void,
): Promise<number> {
  await sweepIncoming(KEPT_MS);
  await mkdir(incomingDir(), { recursive: true });
  const sink = fileSink(incomingPath(token));
  try {
    let size = 0;
    await sink.begin(0);
    for await (const piece of body) {
      if (size + piece.length > mostBytes)
        throw new EternoError('too-large', `more than ${mostBytes} bytes came`);
      await sink.writeAt(size, piece);
      size += piece.length;
      onSize?.(size);
    }
    await sink.commit();
    return size;
  } finally {
    await sink.discard();
  }
}

export const forgetIncoming = (token: string) =>
  rm(/*turbopackIgnore: true*/ incomingPath(token), { force: true });

/** So long a preview waits for its answer. */
const KEPT_MS = 2 * 3_600_000;

/**
 * Throws away what was brought in and never used.
 * @param olderThanMs by the machine's own clock; 0 takes all of it
 */
export async function sweepIncoming(olderThanMs = 0): Promise<void> {
  for (const name of await readdir(incomingDir()).catch(() => [] as string[])) {
    const path = join(/*turbopackIgnore: true*/ incomingDir(), name);
    const age =
      Date.now() -
      (await stat(path).then(
        (info) => info.mtimeMs,
        () => 0,
      ));
    if (age >= olderThanMs) await rm(/*turbopackIgnore: true*/ path, { force: true });
  }
}

/** Room on the disk that the store lies on; null where the system does not say. Bytes. */
export async function freeBytes(): Promise<number | null> {
  const disk = await statfs(dataDir()).catch(() => null);
  return disk && disk.bavail * disk.bsize;
}
