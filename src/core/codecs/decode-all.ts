import { concatBytes } from '../bytes/bytes';
import type { CodecName, Codecs } from './codec';
import { guessCompression } from './codec';

/**
 * Unpacks a file or blob that may be several streams of one kind behind each other; what follows the last is
 * passed over.
 */
export async function decodeAll(
  codecs: Codecs,
  name: CodecName,
  input: Uint8Array,
  limitBytes: number,
): Promise<Uint8Array<ArrayBuffer>> {
  const first = await codecs.decode(name, input, limitBytes);
  const parts = [first.bytes];
  let total = first.bytes.length;
  for (let at = first.consumed; at < input.length && guessCompression(input, at) === name;) {
    const next = await codecs.decode(name, input.subarray(at), limitBytes - total);
    parts.push(next.bytes);
    total += next.bytes.length;
    at += next.consumed;
  }
  return parts.length === 1 ? first.bytes : concatBytes(parts);
}
