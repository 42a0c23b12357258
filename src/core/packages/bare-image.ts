import type { ByteSource } from '../bytes/byte-source';
import { startsWith } from '../bytes/bytes';
import { EternoError } from '../errors';
import { VBMETA_MAGIC } from '../formats/avb/layout';
import type { AvbData } from '../formats/avb/reader';
import { imageDescriptor, readAvbFooter, readVbmetaImage } from '../formats/avb/reader';
import { patchLevelOf } from '../formats/boot-image/layout';
import type { BootImage } from '../formats/boot-image/reader';
import { bootPrefixOf, readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { splitFingerprint } from '../formats/facts/parse-facts';
import { VENDOR_BOOT_MAGIC } from '../formats/vendor-boot/layout';
import type { Ports } from '../ports';
import { copyImage } from './copy-image';
import type { OpenedPackage, PackageBuild } from './package-report';
import { plainImage, UNKNOWN_BUILD } from './package-report';
import { recoveryProgramOf } from './recovery-program';
import { unwrap } from './unwrap';

const PROPERTY = /^com\.android\.build\.([a-z0-9_]+)\.(fingerprint|os_version|security_patch)$/;

/** A boot image without a kernel that does not say which of the two it is. */
export const INIT_BOOT_OR_RECOVERY = 'init_boot or recovery';

/** What an image says of itself: which partition it belongs to and which build. */
export interface ImageIdentity {
  /** `INIT_BOOT_OR_RECOVERY` where it may be of either. */
  readonly partition: string;
  readonly build: PackageBuild;
  readonly evidence: readonly string[];
}

/** The one partition that it is of; null where that is not known. */
export const knownPartition = ({ partition }: ImageIdentity): string | null =>
  partition === INIT_BOOT_OR_RECOVERY ? null : partition;

type OfPartition = Pick<ImageIdentity, 'partition'>;
/** Whether nothing speaks against its being an image of this partition. */
export const mayBeOf = ({ partition }: OfPartition, wanted: string): boolean =>
  partition === wanted || (partition === INIT_BOOT_OR_RECOVERY && ['init_boot', 'recovery'].includes(wanted));

/** Whether nothing speaks against two images being of one partition. */
export const mayBeOfOne = (a: OfPartition, b: OfPartition): boolean =>
  mayBeOf(a, b.partition) || mayBeOf(b, a.partition);

function propertyPartition(properties: Readonly<Record<string, string>>): string | null {
  for (const key of Object.keys(properties)) {
    const match = PROPERTY.exec(key);
    if (match) return match[1]!;
  }
  return null;
}

/** What the first bytes say of an image. */
type Begins = 'boot' | 'vendor_boot' | 'vbmeta' | null;

async function beginsAs(source: ByteSource): Promise<Begins> {
  const head = await source.read(0, Math.min(source.size, 8));
  if (startsWith(head, VENDOR_BOOT_MAGIC)) return 'vendor_boot';
  if (startsWith(head, VBMETA_MAGIC)) return 'vbmeta';
  return (await bootPrefixOf(source)) === null ? null : 'boot';
}

interface Parts {
  readonly begins: Begins;
  readonly boot: BootImage | null;
  readonly avb: AvbData | null;
  /** What its hash descriptor and its properties name. */
  readonly described: string | undefined;
  readonly prefixed: string | null;
  /** The path of a recovery's program, where nothing else tells what an image without a kernel is. */
  readonly program: string | null;
}

/** What is in its ramdisk tells a recovery from init_boot; one that can't be read tells nothing. */
async function programIn(boot: BootImage | null, ports: Ports): Promise<string | null> {
  if (boot === null || boot.header.sizes.kernel !== 0) return null;
  try {
    const packed = await sectionBytes(boot, 'ramdisk');
    return packed.length > 0 ? recoveryProgramOf(archivesOf(await readRamdisk(packed, ports.codecs))) : null;
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code !== 'cancelled' && thrown.code !== 'io') return null;
    throw thrown;
  }
}

/** By its own data, else by its header; null where neither says it. */
function partitionOf({ begins, boot, described, prefixed, program }: Parts): string | null {
  // a vbmeta image describes other partitions, so its descriptors do not name it
  if (begins === 'vbmeta') return 'vbmeta';
  const named = described || prefixed;
  if (named) return named;
  if (begins !== 'boot' || boot?.header.sizes.kernel !== 0) return begins;
  return program === null ? INIT_BOOT_OR_RECOVERY : 'recovery';
}

function evidenceOf({ begins, boot, avb, described, prefixed, program }: Parts, partition: string): string[] {
  const evidence: string[] = [];
  if (boot)
    evidence.push(
      `${boot.prefix === 0 ? 'begins with' : `after ${boot.prefix} bytes comes`} ANDROID!: a boot image, header version ${boot.header.version}`,
    );
  if (begins === 'vendor_boot') evidence.push('begins with VNDRBOOT: a vendor_boot image');
  if (begins === 'vbmeta') evidence.push('begins with AVB0: a vbmeta image');
  if (avb?.footer) evidence.push('ends with a verified-boot footer');
  if (described && begins !== 'vbmeta') evidence.push(`its hash descriptor names ${described}`);
  else if (prefixed) evidence.push(`its properties speak of ${prefixed}`);
  else if (program !== null) evidence.push(`without a kernel, and with ${program}: a recovery`);
  else if (partition === INIT_BOOT_OR_RECOVERY)
    evidence.push('without a kernel, and nothing in it says whether it is of init_boot or of recovery');
  return evidence;
}

/** The build that its verified-boot data states; of its header only the patch level. */
function buildOf({ begins, boot, avb, prefixed }: Parts, partition: string): PackageBuild {
  const properties = avb?.vbmeta.properties ?? {};
  const prefix = `com.android.build.${begins === 'vbmeta' ? (prefixed ?? partition) : partition}`;
  const fingerprint = properties[`${prefix}.fingerprint`] ?? null;
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  return {
    ...UNKNOWN_BUILD,
    fingerprint,
    buildId: parts?.id ?? null,
    incrementalVersion: parts?.incremental ?? null,
    patchLevel:
      properties[`${prefix}.security_patch`] ?? (boot ? patchLevelOf(boot.header.osVersionField) : null),
    devices: parts ? [parts.device] : [],
  };
}

/** @throws {EternoError} `bad-magic` where nothing is known, and all of the readers */
export async function identifyImage(
  source: ByteSource,
  ports: Ports,
): Promise<ImageIdentity & { avb: AvbData | null }> {
  const begins = await beginsAs(source);
  const boot = begins === 'boot' ? await readBootImage(source) : null;
  const avb = begins === 'vbmeta' ? await readVbmetaImage(source) : await readAvbFooter(source);
  const unknown = (why: string) => new EternoError('bad-magic', why, { file: source.name, offset: 0 });
  if (begins === null && !avb) throw unknown('nothing known: neither an image nor verified-boot data');
  const described = avb ? imageDescriptor(avb)?.partition : undefined;
  const prefixed = propertyPartition(avb?.vbmeta.properties ?? {});
  const program = described || prefixed ? null : await programIn(boot, ports);
  const parts: Parts = { begins, boot, avb, described, prefixed, program };
  const partition = partitionOf(parts);
  if (partition === null) throw unknown('the image does not say which partition it belongs to');
  const build = buildOf(parts, partition);
  const evidence = evidenceOf(parts, partition);
  if (build.fingerprint) evidence.push('its verified-boot properties name the build');
  return { partition, evidence, avb, build };
}

/**
 * A file that is one image, perhaps sparse or compressed; it is taken out raw.
 * @throws {EternoError} of `unwrap` and `identifyImage`
 */
export async function openBareImage(file: ByteSource, ports: Ports): Promise<OpenedPackage> {
  const unwrapped = await unwrap(file, ports);
  const { partition, build, evidence } = await identifyImage(unwrapped.source, ports);
  return {
    contents: [],
    report: {
      kind: 'bare-image',
      incremental: false,
      build,
      images: [plainImage(partition, unwrapped.source.size)],
      evidence: [...unwrapped.wrappings, ...evidence],
      warnings: build.fingerprint ? [] : ['the image does not name its build'],
      writes: [],
    },
    async take(wanted, sink, watch = {}) {
      if (wanted !== partition)
        throw new EternoError('not-found', `this file is an image of ${partition}, not of ${wanted}`, {
          file: file.name,
        });
      return copyImage(unwrapped, sink, ports, watch, false);
    },
  };
}
