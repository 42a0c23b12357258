import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex, sha256OfSource } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import { readAvbFooter } from '../formats/avb/reader';
import { readRamdisk } from '../formats/cpio/ramdisk';
import { fragmentNamed } from '../formats/vendor-boot/fragments';
import { readVendorBoot } from '../formats/vendor-boot/reader';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import type { PatchedImage } from './patch-image';
import type { RebuildOptions } from './place-content';
import type { ChangedVendorBoot } from './prove-vendor';
import { proveVendorBoot } from './prove-vendor';
import { needProof } from './need-proof';
import { rebuildVendorBoot } from './rebuild-vendor';

export type ReplacedFragment = Omit<PatchedImage, 'kit'>;

/**
 * A vendor_boot with one of its ramdisks replaced by a file, as it is, and proved (docs/formats.md, "Vendor boot
 * image").
 * @param which the ramdisk's type where one is of it, else its name
 * @throws {EternoError} `not-found`, `unsupported` (version 3 has no table), `does-not-fit`, `too-large`, of the
 *   reader; `bad-hash` when a line of the proof fails
 */
export async function replaceFragment(
  stock: ByteSource,
  which: string,
  file: ByteSource,
  ports: Ports,
  options: RebuildOptions = {},
  { signal }: Watch = {},
): Promise<ReplacedFragment> {
  const image = await readVendorBoot(stock);
  if (image.header.version === 3)
    throw new EternoError('unsupported', 'a vendor_boot of version 3 has one ramdisk and no table of them', {
      file: stock.name,
    });
  const index = fragmentNamed(image, which);
  if (file.size > LIMITS.ramdiskBytes)
    throw new EternoError('too-large', `a ramdisk of ${file.size} bytes`, { file: file.name });
  const bytes = await file.read(0, file.size);
  const avb = await readAvbFooter(stock);
  const rebuilt = await rebuildVendorBoot(
    image,
    avb,
    { fragments: new Map([[index, bytes]]) },
    ports,
    options,
  );
  throwIfAborted(signal);
  const changed: ChangedVendorBoot = {
    image,
    avb,
    fragments: new Map([[index, { by: 'file', bytes }]]),
    cmdline: image.header.cmdline,
    dtb: null,
  };
  const result = memorySource(rebuilt.bytes, 'changed image');
  const proof = needProof(await proveVendorBoot(changed, result, ports, options), stock.name);
  const { name, type } = image.ramdisks[index]!;
  return {
    bytes: rebuilt.bytes,
    partition: 'vendor_boot',
    sha256: await sha256Hex(ports.digests, rebuilt.bytes),
    stockSha256: await sha256OfSource(ports.digests, stock, signal),
    changes: { added: [], removed: [], changed: [name === '' ? type : name], moved: [] },
    proof,
    notes: [...rebuilt.notes, ...(await notesOn(bytes, ports))],
  };
}

/** It goes in as it is, whatever it is; what can't be read is said. */
async function notesOn(bytes: Uint8Array, { codecs }: Ports): Promise<string[]> {
  try {
    await readRamdisk(bytes, codecs);
    return [];
  } catch (thrown) {
    if (!(thrown instanceof EternoError)) throw thrown;
    return [`what was put in can't be read as a ramdisk: ${thrown.message}`];
  }
}
