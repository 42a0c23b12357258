import type { ByteSource } from '../bytes/byte-source';
import { sha256OfSource } from '../bytes/digest';
import { toHex } from '../bytes/bytes';
import { EternoError, throwIfAborted } from '../errors';
import type { AvbData } from '../formats/avb/reader';
import { readAvbFooter } from '../formats/avb/reader';
import { readKernel } from '../formats/boot-image/kernel';
import type { BootImage } from '../formats/boot-image/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { nameOf } from '../formats/cpio/cpio-archive';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import type { Kit, KitStep } from '../kits/kit';
import type { ImageIdentity } from '../packages/bare-image';
import { identifyImage, mayBeOf } from '../packages/bare-image';
import { provenanceOf } from '../packages/provenance';
import type { Ports, Watch } from '../ports';
import type { AppliedSections, StockSections } from './apply-sections';
import { applySections, packSections } from './apply-sections';
import type { AppliedSteps, Variables } from './apply-steps';
import { applySteps } from './apply-steps';
import type { AvbChoice } from './place-content';
import type { NewSections } from './rebuild';
import { packRamdisk } from './rebuild';
import { headerFactsOf, stockFacts } from './stock-facts';
import type { OptionValues, RunningStep } from './steps-that-run';
import { optionsOf, stepsThatRun } from './steps-that-run';

/* Everything up to the changed entries and sections: what may be patched, and what a kit's steps make of it. */

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
  /** What the person chose of the kit's options; the kit's own choice where nothing is said. */
  readonly chosen?: OptionValues;
  /** What is known of the handset; judged only where known. */
  readonly sdk?: number;
  readonly architecture?: string;
  readonly partitionSize?: number;
}

export interface Prepared {
  readonly image: BootImage;
  readonly avb: AvbData | null;
  /** Null where the image has none, and no step that runs needs one. */
  readonly ramdisk: Ramdisk | null;
  readonly sections: StockSections;
  readonly partition: string;
  readonly stockSha256: string;
  readonly steps: readonly RunningStep[];
  readonly applied: AppliedSteps;
  /** What the steps make of sections beside the ramdisk. */
  readonly changed: AppliedSections;
  readonly notes: readonly string[];
}

export const needsRamdisk = ({ do: kind }: KitStep) =>
  kind !== 'cmdline' && kind !== 'replaceBytes' && kind !== 'kernel';
/** Unpacking a kernel takes its time: it is done where a step or a condition asks for it. */
const asksForKernel = ({ steps }: Pick<Kit, 'steps'>) =>
  steps.some(
    (step) =>
      step.do === 'kernel' ||
      step.do === 'replaceBytes' ||
      step.when.some(({ of }) => of === 'kernel' || of === 'architecture'),
  );

/** @throws {EternoError} of `patchImage` */
export async function prepare(
  stock: ByteSource,
  kit: Kit,
  ports: Ports,
  options: PatchOptions,
  watch: Watch,
): Promise<Prepared> {
  const identity = partitionFor(kit, await identifyImage(stock, ports));
  const { partition } = identity;
  const image = await readBootImage(stock);
  if (image.prefix > 0)
    throw new EternoError(
      'unsupported',
      `${image.prefix} bytes of nobody known stand before this boot image: it can be read, and not changed, because nobody knows what they say of it`,
      { file: stock.name },
    );
  const packed = await sectionBytes(image, 'ramdisk');
  checkSupport(kit, partition, options);
  const chosen = optionsOf(kit, options.chosen);
  // unpacking goes on in other threads, where there are any, while this one hashes
  const [ramdisk, stockSha256] = await Promise.all([
    packed.length === 0
      ? null
      : readRamdisk(packed, ports.codecs).catch((thrown: unknown) => {
          throw thrown instanceof EternoError ? thrown.inFile(stock.name) : thrown;
        }),
    sha256OfSource(ports.digests, stock, watch.signal),
  ]);
  throwIfAborted(watch.signal);
  if (ramdisk) refusePatched(kit, archivesOf(ramdisk), stock.name);
  const sections = await sectionsIn(image, kit, ports);
  const avb = await readAvbFooter(stock);
  const { steps, notes } = stepsThatRun(
    kit,
    stockFacts({
      partition,
      ...headerFactsOf(image),
      properties: avb?.vbmeta.properties ?? {},
      fingerprint: identity.build.fingerprint,
      kernel: sections.kernel,
      archives: ramdisk ? archivesOf(ramdisk) : [],
    }),
    chosen,
  );
  if (!ramdisk && (kit.formatVersion === 1 || steps.some(({ step }) => needsRamdisk(step))))
    throw new EternoError('unsupported', 'the image has no ramdisk, so root cannot sit in it', {
      file: stock.name,
    });
  const { version: headerVersion } = image.header;
  const variables = await variablesFor(
    kit,
    { stock, stockSha256, identity, headerVersion, chosen, options },
    ports,
  );
  const applied = applySteps(kit, steps, ramdisk ? archivesOf(ramdisk) : [], image.header.cmdline, variables);
  const changed = applySections(kit, steps, sections);
  return { image, avb, ramdisk, sections, partition, stockSha256, steps, applied, changed, notes };
}

async function sectionsIn(image: BootImage, kit: Kit, { codecs }: Ports): Promise<StockSections> {
  const [kernel, dtb] = [await sectionBytes(image, 'kernel'), await sectionBytes(image, 'dtb')];
  return {
    kernel: kernel.length > 0 && asksForKernel(kit) ? await readKernel(kernel, codecs) : null,
    dtb: dtb.length > 0 ? dtb : null,
  };
}

/** The sections that the steps make, packed. @throws {EternoError} of packing */
export async function sectionsOf(
  { ramdisk, sections, applied, changed }: Prepared,
  ports: Ports,
  options: Pick<PatchOptions, 'gzipInstead'>,
  strong: boolean,
): Promise<NewSections> {
  const gzipInstead = options.gzipInstead ?? false;
  return {
    ...(ramdisk
      ? { ramdisk: await packRamdisk(ramdisk, applied.archives, ports, { strong, gzipInstead }) }
      : {}),
    ...(await packSections(changed, sections, ports.codecs, strong)),
  };
}

interface VariableSources {
  readonly stock: ByteSource;
  readonly stockSha256: string;
  readonly identity: ImageIdentity;
  readonly headerVersion: number;
  readonly chosen: OptionValues;
  readonly options: PatchOptions;
}

const SEED_DIGITS = 16;

export async function variablesFor(
  kit: Kit,
  { stock, stockSha256, identity, headerVersion, chosen, options }: VariableSources,
  { digests }: Ports,
): Promise<Variables> {
  const own = {
    'stock.sha256': stockSha256,
    'kit.id': kit.id,
    'kit.version': kit.version,
    'build.fingerprint': options.fingerprint ?? identity.build.fingerprint ?? '',
  };
  if (kit.formatVersion === 1) return own;
  const sha1 = await digests.create('sha1');
  sha1.update(await stock.read(0, stock.size));
  const seed = await digests.create('sha256');
  seed.update(new TextEncoder().encode(stockSha256 + kit.id + kit.version));
  return {
    ...own,
    'stock.sha1': toHex(sha1.finish()),
    'image.partition': identity.partition,
    'image.headerVersion': String(headerVersion),
    'seed.hex16': toHex(seed.finish()).slice(0, SEED_DIGITS),
    ...Object.fromEntries(
      Object.entries(chosen).map(([name, value]) => [`option.${name}` as const, String(value)]),
    ),
  };
}

/** Where an image does not tell whether it is of init_boot or of recovery, the one that the kit is for. */
const partitionFor = <T extends ImageIdentity>(kit: Kit, identity: T): T => ({
  ...identity,
  partition: kit.supports.partitions?.find((partition) => mayBeOf(identity, partition)) ?? identity.partition,
});

/** @throws {EternoError} `refused` where kit and image or handset do not go together */
export function checkSupport(kit: Kit, partition: string, { sdk, architecture }: PatchOptions): void {
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

/** @throws {EternoError} `already-patched` */
export function refusePatched(kit: Kit, archives: readonly CpioArchive[], file: string): void {
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
