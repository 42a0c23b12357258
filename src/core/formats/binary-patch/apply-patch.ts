import type { Codecs } from '../../codecs/codec';
import { EternoError } from '../../errors';
import type { PatchPacking } from './layout';
import { parsePatchHeader, PATCH_HEADER_BYTES, readSigned } from './layout';

const TRIPLE_BYTES = 24;
const bad = (code: 'bad-field' | 'truncated' | 'corrupt', what: string) =>
  new EternoError(code, `binary patch: ${what}`);

/**
 * The new bytes that a patch makes of old ones.
 * @param newBytes what must come out, no more and no less
 * @throws {EternoError} of `parsePatchHeader` and the codecs, `bad-field`, `truncated`, `corrupt`
 */
export async function applyBinaryPatch(
  old: Uint8Array,
  patch: Uint8Array,
  newBytes: number,
  codecs: Codecs,
): Promise<Uint8Array<ArrayBuffer>> {
  const header = parsePatchHeader(patch);
  if (header.newBytes !== newBytes)
    throw bad('bad-field', `it makes ${header.newBytes} bytes where ${newBytes} belong`);
  const unpack = async (
    packing: PatchPacking,
    start: number,
    end: number,
    limit: number,
  ): Promise<Uint8Array> => {
    const packed = patch.subarray(start, end);
    if (packing === 'none') return packed;
    if (packed.length === 0) return packed;
    return (await codecs.decode(packing, packed, limit)).bytes;
  };
  const diffStart = PATCH_HEADER_BYTES + header.controlBytes;
  const extraStart = diffStart + header.diffBytes;
  // a triple that moves nothing is legal, so the control stream may be longer than the output: bounded by it
  // and a fixed allowance
  const control = await unpack(
    header.packings[0],
    PATCH_HEADER_BYTES,
    diffStart,
    (newBytes + 1024) * TRIPLE_BYTES,
  );
  const diff = await unpack(header.packings[1], diffStart, extraStart, newBytes);
  const extra = await unpack(header.packings[2], extraStart, patch.length, newBytes);
  if (control.length % TRIPLE_BYTES !== 0) throw bad('truncated', 'the control stream is cut off');

  const out = new Uint8Array(newBytes);
  let [at, oldAt, diffAt, extraAt] = [0, 0, 0, 0];
  for (let i = 0; i < control.length; i += TRIPLE_BYTES) {
    const add = readSigned(control, i, 'a length to add');
    const copy = readSigned(control, i + 8, 'a length to copy');
    const seek = readSigned(control, i + 16, 'a seek');
    if (add < 0 || copy < 0 || at + add + copy > newBytes)
      throw bad('bad-field', 'a control triple runs past the new bytes');
    if (diffAt + add > diff.length) throw bad('truncated', 'the diff stream ends early');
    if (extraAt + copy > extra.length) throw bad('truncated', 'the extra stream ends early');
    // outside the old bytes the diff stands for itself
    for (let k = 0; k < add; k += 1) out[at + k] = diff[diffAt + k]! + (old[oldAt + k] ?? 0);
    at += add;
    diffAt += add;
    oldAt += add;
    out.set(extra.subarray(extraAt, extraAt + copy), at);
    at += copy;
    extraAt += copy;
    oldAt += seek;
    if (!Number.isSafeInteger(oldAt)) throw bad('bad-field', 'a seek leaves what any file holds');
  }
  if (at !== newBytes) throw bad('corrupt', `${at} bytes came out where ${newBytes} belong`);
  return out;
}
