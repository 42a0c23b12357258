import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import { isVendorBoot } from '../formats/vendor-boot/reader';
import type { Kit } from '../kits/kit';
import type { Ports, Watch } from '../ports';
import type { EntryChanges } from './apply-steps';
import type { PatchOptions } from './prepare-patch';
import { needProof } from './need-proof';
import type { RebuiltImage } from './place-content';
import { prepare, sectionsOf } from './prepare-patch';
import { prepareVendor, vendorPartsOf } from './prepare-vendor';
import type { ProofLine } from './prove-patch';
import { provePatch } from './prove-patch';
import { proveVendorBoot } from './prove-vendor';
import { rebuildImage } from './rebuild';
import { rebuildVendorBoot } from './rebuild-vendor';

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

/** A stock image with what a kit makes of it: how it is built, and proved. */
interface Patching {
  readonly partition: string;
  readonly stockSha256: string;
  readonly changes: EntryChanges;
  readonly notes: readonly string[];
  /** @param strong more time for a smaller result */
  readonly build: (strong: boolean) => Promise<RebuiltImage>;
  readonly prove: (result: ByteSource) => Promise<readonly ProofLine[]>;
}

async function patching(
  stock: ByteSource,
  kit: Kit,
  ports: Ports,
  options: PatchOptions,
  watch: Watch,
): Promise<Patching> {
  if (await isVendorBoot(stock)) {
    const prepared = await prepareVendor(stock, kit, ports, options, watch);
    const { image, avb } = prepared;
    return {
      partition: 'vendor_boot',
      ...prepared,
      build: async (strong) =>
        rebuildVendorBoot(image, avb, await vendorPartsOf(prepared, ports, options, strong), ports, options),
      prove: (result) => proveVendorBoot(prepared, result, ports, options),
    };
  }
  const prepared = await prepare(stock, kit, ports, options, watch);
  const { image, avb, applied } = prepared;
  return {
    ...prepared,
    changes: applied.changes,
    build: async (strong) =>
      rebuildImage(
        image,
        avb,
        await sectionsOf(prepared, ports, options, strong),
        applied.cmdline,
        ports,
        options,
      ),
    prove: (result) => provePatch(prepared, result, ports, options),
  };
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
  const work = await patching(stock, kit, ports, options, watch);
  const { partition, stockSha256, changes, build } = work;
  progress('pack', stock.size / 3);
  throwIfAborted(watch.signal);
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
    work.prove(memorySource(rebuilt.bytes, 'patched image')),
    sha256Hex(ports.digests, rebuilt.bytes),
  ]);
  needProof(proof, stock.name);
  progress('done', stock.size);
  return {
    bytes: rebuilt.bytes,
    partition,
    sha256,
    stockSha256,
    kit: `${kit.id} ${kit.version}`,
    changes,
    proof,
    notes: [...work.notes, ...rebuilt.notes],
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
): Promise<readonly ProofLine[]> {
  const { prove } = await patching(stock, kit, ports, options, {});
  return prove(result);
}
