import type { ZipMember } from '../any/write-zip';
import { writeZip } from '../any/write-zip';

export type { ZipMember } from '../any/write-zip';

/** An archive as a stream: a member is read only when the one before it has gone out. */
export function zipStream(members: AsyncIterable<ZipMember>): ReadableStream<Uint8Array> {
  const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>(undefined, undefined, {
    highWaterMark: 4,
  });
  const writer = writable.getWriter();
  writeZip(members, (bytes) => writer.write(bytes))
    .then(() => writer.close())
    .catch((thrown: unknown) => writer.abort(thrown).catch(() => undefined));
  return readable;
}
