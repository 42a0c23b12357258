import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import type { Kit } from '../kits/kit';
import type { Ports, Watch } from '../ports';
import type { EntryChanges } from './apply-steps';
import type { PatchOptions } from './prepare-patch';
import { prepare, sectionsOf } from './prepare-patch';
import type { ProofLine } from './prove-patch';
import { provePatch } from './prove-patch';
import { rebuildImage } from './rebuild';

export type { PatchOptions } from './prepare-patch';

export interface PatchedImage {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly partition: string;
  readonly sha256: string;
  readonly stockSha256: string;
  readonly kit: string;
  readonly changes: EntryChanges;
  readonly proof: readonly ProofLine[];
  readonly notes: readonly string[];
}

/**
 * Patches a stock image and proves the result. Deterministic: the same stock, kit and options give the same
 * bytes.
 * @throws {EternoError} `already-patched`, `refused` (kit and image do not go together), `unsupported`,
 *   `does-not-fit`, `kit-step-failed`,
 *   `bad-hash` when a line of the proof fails
 */
export async function patchImage(
  stock: ByteSource,
  kit: Kit,
  ports: Ports,
  options: PatchOptions = {},
  watch: Watch = {},
): Promise<PatchedImage> {
  const progress = (phase: string, doneBytes: number) =>
    watch.onProgress?.({ phase, doneBytes, totalBytes: stock.size });
  progress('read', 0);
  const prepared = await prepare(stock, kit, ports, options, watch);
  const { image, avb, applied, partition, stockSha256 } = prepared;
  progress('pack', stock.size / 3);
  throwIfAborted(watch.signal);
  const build = async (strong: boolean) =>
    rebuildImage(
      image,
      avb,
      await sectionsOf(prepared, ports, options, strong),
      applied.cmdline,
      ports,
      options,
    );
  let rebuilt;
  try {
    rebuilt = await build(false);
  } catch (thrown) {
    if (!(thrown instanceof EternoError && thrown.code === 'does-not-fit')) throw thrown;
    rebuilt = await build(true);
  }
  progress('prove', (2 * stock.size) / 3);
  throwIfAborted(watch.signal);
  const [proof, sha256] = await Promise.all([
    provePatch(prepared, memorySource(rebuilt.bytes, 'patched image'), ports, options),
    sha256Hex(ports.digests, rebuilt.bytes),
  ]);
  const failed = proof.filter((line) => !line.ok);
  if (failed.length > 0)
    throw new EternoError(
      'bad-hash',
      `the patched image failed its proof: ${failed.map((line) => line.check).join('; ')}`,
      { file: stock.name },
    );
  progress('done', stock.size);
  return {
    bytes: rebuilt.bytes,
    partition,
    sha256,
    stockSha256,
    kit: `${kit.id} ${kit.version}`,
    changes: applied.changes,
    proof,
    notes: [...prepared.notes, ...rebuilt.notes],
  };
}

/**
 * Proves an image that is said to come from `stock` by `kit`, without trusting who says so.
 * @throws {EternoError} of `patchImage`
 */
export async function proveAgain(
  stock: ByteSource,
  kit: Kit,
  result: ByteSource,
  ports: Ports,
  options: PatchOptions = {},
): Promise<ProofLine[]> {
  const prepared = await prepare(stock, kit, ports, options, {});
  return provePatch(prepared, result, ports, options);
}
