import type { ByteSource } from '../bytes/byte-source';
import { sha256OfSource } from '../bytes/digest';
import { toEternoError } from '../errors';
import { checkDigest } from '../formats/avb/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { identifyImage } from '../packages/bare-image';
import { provenanceOf } from '../packages/provenance';
import type { Ports } from '../ports';
import type { ImageFacts } from './state';

/** What a handset finds when it tries to start from an image on `partition`. Never throws for a bad image: that is a finding. */
export async function lookInside(source: ByteSource, partition: string, ports: Ports): Promise<ImageFacts> {
  const sha256 = await sha256OfSource(ports.digests, source);
  const nothing = { sha256, sizeBytes: source.size, fingerprint: null, patchedBy: null, digestValid: null };
  try {
    const identity = await identifyImage(source);
    if (identity.partition !== partition) return { ...nothing, broken: `this is an image of ${identity.partition}` };
    const packed = await sectionBytes(await readBootImage(source), 'ramdisk');
    const archives = packed.length > 0 ? archivesOf(await readRamdisk(packed, ports.codecs)) : [];
    return {
      sha256,
      sizeBytes: source.size,
      broken: null,
      fingerprint: identity.build.fingerprint,
      patchedBy: provenanceOf(archives),
      digestValid: identity.avb?.footer ? await checkDigest(source, identity.avb, ports.digests) : null,
    };
  } catch (thrown) {
    return { ...nothing, broken: toEternoError(thrown).message };
  }
}
