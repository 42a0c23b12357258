import { ByteWriter } from '../../bytes/byte-writer';
import { concatBytes } from '../../bytes/bytes';
import type { PatchPacking } from './layout';
import { patchHeaderBytes, signedBytes } from './layout';

/** Packs a stream; `none` where the bytes go in as they are. */
export interface PatchPacker {
  readonly packing: PatchPacking;
  pack(bytes: Uint8Array): Uint8Array;
}

/**
 * A patch of two runs: as many bytes as both sides have are added place by place, the rest is copied. Enough
 * for blocks in which little changed; no search for moved content.
 */
export function writeBinaryPatch(
  old: Uint8Array,
  fresh: Uint8Array,
  { packing, pack }: PatchPacker,
): Uint8Array<ArrayBuffer> {
  const shared = Math.min(old.length, fresh.length);
  const diff = fresh.slice(0, shared);
  for (let i = 0; i < shared; i += 1) diff[i] = fresh[i]! - old[i]!;
  const control = pack(
    new ByteWriter(24)
      .bytes(signedBytes(shared))
      .bytes(signedBytes(fresh.length - shared))
      .bytes(signedBytes(0))
      .finish(),
  );
  const [packedDiff, packedExtra] = [pack(diff), pack(fresh.subarray(shared))];
  const header = patchHeaderBytes({
    packings: [packing, packing, packing],
    controlBytes: control.length,
    diffBytes: packedDiff.length,
    newBytes: fresh.length,
  });
  return concatBytes([header, control, packedDiff, packedExtra]);
}
