import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex, sha256OfSource } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import type { AvbData } from '../formats/avb/reader';
import { readAvbFooter } from '../formats/avb/reader';
import type { BootImage } from '../formats/boot-image/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { nameOf } from '../formats/cpio/cpio-archive';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import type { Kit } from '../kits/kit';
import { identifyImage } from '../packages/bare-image';
import { provenanceOf } from '../packages/provenance';
import type { Ports, Watch } from '../ports';
import type { AppliedSteps, EntryChanges } from './apply-steps';
import { applySteps } from './apply-steps';
import type { ProofLine } from './prove-patch';
import { provePatch } from './prove-patch';
import type { AvbChoice } from './rebuild';
import { packRamdisk, rebuildImage } from './rebuild';

export interface PatchOptions {
  /** What becomes of verified-boot data; default `carry`. */
  readonly avb?: AvbChoice;
  /**
   * Where the ramdisk's kind of packing can't be written here: gzip in its place, on the person's explicit
   * word.
   */
  readonly gzipInstead?: boolean;
  /** The build's fingerprint where the image does not name it. */
  readonly fingerprint?: string;
  /** What is known of the handset; judged only where known. */
  readonly sdk?: number;
  readonly architecture?: string;
  readonly partitionSize?: number;
}

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

interface Prepared {
  readonly image: BootImage;
  readonly avb: AvbData | null;
  readonly ramdisk: Ramdisk;
  readonly partition: string;
  readonly stockSha256: string;
  readonly applied: AppliedSteps;
}

/** Everything up to the changed entry list: what may be patched, and what the steps make of it. */
async function prepare(
  stock: ByteSource,
  kit: Kit,
  ports: Ports,
  options: PatchOptions,
  watch: Watch,
): Promise<Prepared> {
  const { partition, build } = await identifyImage(stock);
  const image = await readBootImage(stock);
  const packed = await sectionBytes(image, 'ramdisk');
  if (packed.length === 0)
    throw new EternoError('unsupported', 'the image has no ramdisk, so root cannot sit in it', {
      file: stock.name,
    });
  checkSupport(kit, partition, options);
  // unpacking goes on in other threads, where there are any, while this one hashes
  const [ramdisk, stockSha256] = await Promise.all([
    readRamdisk(packed, ports.codecs).catch((thrown: unknown) => {
      throw thrown instanceof EternoError ? thrown.inFile(stock.name) : thrown;
    }),
    sha256OfSource(ports.digests, stock, watch.signal),
  ]);
  throwIfAborted(watch.signal);
  refusePatched(kit, ramdisk, stock.name);
  const variables = {
    'stock.sha256': stockSha256,
    'kit.id': kit.id,
    'kit.version': kit.version,
    'build.fingerprint': options.fingerprint ?? build.fingerprint ?? '',
  };
  return {
    image,
    avb: await readAvbFooter(stock),
    ramdisk,
    partition,
    stockSha256,
    applied: applySteps(kit, archivesOf(ramdisk), image.header.cmdline, variables),
  };
}

function checkSupport(kit: Kit, partition: string, { sdk, architecture }: PatchOptions): void {
  const { supports } = kit;
  if (supports.partitions && !supports.partitions.includes(partition)) {
    throw new EternoError(
      'refused',
      `${kit.name} ${kit.version} is for ${supports.partitions.join(', ')}, and this is an image of ${partition}`,
    );
  }
  if (sdk !== undefined && supports.sdk && (sdk < supports.sdk[0] || sdk > supports.sdk[1])) {
    throw new EternoError(
      'refused',
      `${kit.name} ${kit.version} supports platform levels ${supports.sdk[0]} to ${supports.sdk[1]}, and the handset runs ${sdk}`,
    );
  }
  if (
    architecture !== undefined &&
    supports.architectures &&
    !supports.architectures.includes(architecture)
  ) {
    throw new EternoError(
      'refused',
      `${kit.name} ${kit.version} supports ${supports.architectures.join(', ')}, and the handset is ${architecture}`,
    );
  }
}

function refusePatched(kit: Kit, ramdisk: Ramdisk, file: string): void {
  const archives = archivesOf(ramdisk);
  const note = provenanceOf(archives);
  const marked =
    kit.marker !== null &&
    archives.some((archive) => archive.entries.some((entry) => nameOf(entry) === kit.marker));
  if (!note && !marked) return;
  const by = note
    ? `by ${note.kit}, from the stock image ${note.stockSha256}`
    : `by ${kit.name} (its marker ${kit.marker} is there)`;
  throw new EternoError(
    'already-patched',
    `this image is patched already, ${by}; a patched image is never patched again`,
    {
      file,
      details: { kit: note?.kit ?? kit.id, stockSha256: note?.stockSha256 ?? null },
    },
  );
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
  const { image, avb, ramdisk, applied, partition, stockSha256 } = prepared;
  progress('pack', stock.size / 3);
  throwIfAborted(watch.signal);
  const gzipInstead = options.gzipInstead ?? false;
  const build = async (strong: boolean) =>
    rebuildImage(
      image,
      avb,
      await packRamdisk(ramdisk, applied.archives, ports, { strong, gzipInstead }),
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
    provePatch(prepared, memorySource(rebuilt.bytes, 'patched image'), applied, ports, options),
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
    notes: rebuilt.notes,
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
  return provePatch(prepared, result, prepared.applied, ports, options);
}
