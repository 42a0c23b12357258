import type { ByteSource } from '../bytes/byte-source';
import { readPieces } from '../bytes/byte-source';
import { sha256OfSource } from '../bytes/digest';
import type { ImageSink } from '../bytes/image-sink';
import { throwIfAborted } from '../errors';
import { startsWith } from '../bytes/bytes';
import { VBMETA_MAGIC } from '../formats/avb/layout';
import { checkDigest, readAvbFooter } from '../formats/avb/reader';
import type { Ports, Watch } from '../ports';
import type { TakenImage } from './package-report';
import type { Unwrapped } from './unwrap';

/**
 * Whether the image has the digest that its own verified-boot data states; null where it states none or can't
 * be read.
 */
async function ownDigestHolds(source: ByteSource, ports: Ports): Promise<boolean> {
  const head = await source.read(0, Math.min(4, source.size));
  if (startsWith(head, VBMETA_MAGIC)) return false;
  const avb = await readAvbFooter(source).catch(() => null);
  return avb !== null && (await checkDigest(source, avb, ports.digests).catch(() => null)) === true;
}

/**
 * Writes an unwrapped image and reads it back.
 * @param stated whether the file itself was held against a hash that the package states
 */
export async function copyImage(
  { source, check }: Unwrapped,
  sink: ImageSink,
  ports: Ports,
  watch: Watch,
  stated: boolean,
): Promise<TakenImage> {
  await sink.begin(source.size);
  let at = 0;
  for await (const piece of readPieces(source, 1 << 20, watch.signal)) {
    throwIfAborted(watch.signal);
    await sink.writeAt(at, piece);
    at += piece.length;
    watch.onProgress?.({ phase: 'copy', doneBytes: at, totalBytes: source.size });
  }
  await check(watch.signal);
  const written = await sink.readBack();
  const verified = stated || (await ownDigestHolds(written, ports));
  return { size: source.size, sha256: await sha256OfSource(ports.digests, written, watch.signal), verified };
}
