import type { ByteSource } from '../bytes/byte-source';
import { startsWith } from '../bytes/bytes';
import { sha256OfSource } from '../bytes/digest';
import { toEternoError } from '../errors';
import { checkDigest } from '../formats/avb/reader';
import { BOOT_MAGIC } from '../formats/boot-image/layout';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { isVendorBoot, readVendorBoot, vendorRamdiskBytes } from '../formats/vendor-boot/reader';
import { identifyImage, mayBeOf } from '../packages/bare-image';
import { recoveryNoteOf } from '../packages/recovery-note';
import { fingerprintIn } from '../judge/judged-side';
import { provenanceOf } from '../packages/provenance';
import type { Ports } from '../ports';
import type { ImageFacts } from './state';

/**
 * What a handset finds when it tries to start from an image on `partition`. Never throws for a bad image:
 * that is a finding.
 */
export async function lookInside(source: ByteSource, partition: string, ports: Ports): Promise<ImageFacts> {
  const sha256 = await sha256OfSource(ports.digests, source);
  const nothing = { sha256, sizeBytes: source.size, fingerprint: null, patchedBy: null, digestValid: null };
  try {
    const identity = await identifyImage(source, ports);
    if (!mayBeOf(identity, partition))
      return { ...nothing, broken: `this is an image of ${identity.partition}` };
    const digestValid = identity.avb?.footer ? await checkDigest(source, identity.avb, ports.digests) : null;
    const facts = { ...nothing, broken: null, fingerprint: identity.build.fingerprint, digestValid };
    if (await isVendorBoot(source)) return { ...facts, recovery: await recoveryInside(source, ports) };
    if (!startsWith(await source.read(0, BOOT_MAGIC.length), BOOT_MAGIC))
      return digestValid === false
        ? { ...facts, broken: 'its content is not what its own hash says' }
        : facts;
    const packed = await sectionBytes(await readBootImage(source), 'ramdisk');
    const archives = packed.length > 0 ? archivesOf(await readRamdisk(packed, ports.codecs)) : [];
    return {
      ...facts,
      fingerprint: facts.fingerprint ?? fingerprintIn(archives),
      patchedBy: provenanceOf(archives),
      recovery: recoveryNoteOf(archives),
    };
  } catch (thrown) {
    return { ...nothing, broken: toEternoError(thrown).message };
  }
}

/** Of vendor_boot every ramdisk has to unpack; a recovery of a person's own is in the one for it. */
async function recoveryInside(source: ByteSource, { codecs }: Ports): Promise<ImageFacts['recovery']> {
  const image = await readVendorBoot(source);
  let found: ImageFacts['recovery'] = null;
  for (const fragment of image.ramdisks) {
    if (fragment.size === 0) continue;
    const archives = archivesOf(await readRamdisk(await vendorRamdiskBytes(image, fragment), codecs));
    if (fragment.type === 'recovery') found = recoveryNoteOf(archives) ?? found;
  }
  return found;
}
