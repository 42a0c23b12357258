import { concatBytes } from '../bytes/bytes';
import type { Compression } from '../codecs/codec';
import { EternoError } from '../errors';
import type { AvbData } from '../formats/avb/reader';
import type { BootSectionName, HeaderChange } from '../formats/boot-image/layout';
import { layOutSections, recoveryDtboOffsetOf, rewriteHeader } from '../formats/boot-image/layout';
import type { BootImage } from '../formats/boot-image/reader';
import { computeId, idRuleOf, sectionBytes, sectionOf } from '../formats/boot-image/reader';
import type { CpioEntry } from '../formats/cpio/cpio-archive';
import { withPartHeader } from '../bytes/part-header';
import type { Ramdisk, RamdiskStream } from '../formats/cpio/ramdisk';
import { streamBytes } from '../formats/cpio/ramdisk';
import type { Ports } from '../ports';
import { sameEntries } from './journal';
import type { RebuildOptions, RebuiltImage } from './place-content';
import { placeContent } from './place-content';

export interface PackOptions {
  /** More time for a smaller result. */
  readonly strong: boolean;
  /** Where a changed stream's kind can't be written here: gzip in its place, on the person's word. */
  readonly gzipInstead: boolean;
}

/** Kinds a ramdisk can be packed in here. */
const WRITABLE: readonly string[] = ['gzip', 'lz4-legacy', 'lz4-frame', 'xz', 'lzma', 'zstd', 'none'];

/** One stream packed again in the kind it came in; untouched streams stay byte for byte. */
async function repackStream(
  stream: RamdiskStream,
  archives: readonly (readonly CpioEntry[])[],
  ports: Ports,
  { strong, gzipInstead }: PackOptions,
): Promise<Uint8Array> {
  if (stream.archives.every((item, i) => sameEntries(item.archive.entries, archives[i]!)))
    return stream.packed;
  const kind = packedAs(stream.compression, gzipInstead);
  if (kind === null)
    throw new EternoError(
      'unsupported',
      `the ramdisk is packed as ${stream.compression}, which can be read but not written here; it can be packed as gzip, if you say so and the kernel reads gzip`,
      { details: { compression: stream.compression, gzipInstead: true } },
    );
  const plain = streamBytes({
    lead: stream.lead,
    archives: stream.archives.map((item, i) => ({
      ...item,
      archive: { ...item.archive, entries: archives[i]! },
    })),
  });
  return kind === 'none' ? plain : ports.codecs.encode(kind, plain, strong);
}

/** What a changed stream of a kind is packed as; null where it can't be packed. */
export function packedAs(compression: Compression, gzipInstead: boolean): Compression | null {
  if (WRITABLE.includes(compression)) return compression;
  return gzipInstead ? 'gzip' : null;
}

export async function packRamdisk(
  ramdisk: Ramdisk,
  archives: readonly (readonly CpioEntry[])[],
  ports: Ports,
  options: PackOptions,
): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array[] = [ramdisk.lead];
  let at = 0;
  for (const stream of ramdisk.streams) {
    const own = archives.slice(at, at + stream.archives.length);
    at += own.length;
    parts.push(await repackStream(stream, own, ports, options), stream.padding);
  }
  return withPartHeader(ramdisk, concatBytes(parts));
}

/** Sections as they are to be; all others stay as they are. */
export type NewSections = Readonly<Partial<Record<'ramdisk' | 'kernel' | 'dtb', Uint8Array>>>;

/**
 * The image with other sections and another command line; everything else byte for byte, AVB data carried
 * along.
 * @throws {EternoError} `does-not-fit` with the bytes over, `unsupported` ramdisk kind
 */
export async function rebuildImage(
  image: BootImage,
  avb: AvbData | null,
  fresh: NewSections,
  cmdline: string,
  ports: Ports,
  options: RebuildOptions = {},
): Promise<RebuiltImage> {
  const { header, source } = image;
  const sizes = Object.fromEntries(Object.entries(fresh).map(([name, bytes]) => [name, bytes.length]));
  const layout = layOutSections({ ...header, sizes: { ...header.sizes, ...sizes } });
  const page = await source.read(0, Math.min(header.pageSize, source.size));
  const { change, notes } = await headerChange(image, page, layout, fresh, cmdline, ports);
  const placed = await placeContent(
    image,
    avb,
    layout,
    async (out) => {
      out.set(rewriteHeader(page, header, change));
      for (const section of layout.sections)
        if (section.name !== 'header') out.set(await sectionNow(image, section.name, fresh), section.offset);
    },
    ports,
    options,
  );
  return { bytes: placed.bytes, notes: [...notes, ...placed.notes] };
}

const sectionNow = async (image: BootImage, name: BootSectionName, fresh: NewSections): Promise<Uint8Array> =>
  (name === 'ramdisk' || name === 'kernel' || name === 'dtb' ? fresh[name] : undefined) ??
  sectionBytes(image, name);

/** What of the header changes with the ramdisk and the command line, and what is to be said of it. */
async function headerChange(
  image: BootImage,
  page: Uint8Array,
  layout: ReturnType<typeof layOutSections>,
  fresh: NewSections,
  cmdline: string,
  ports: Ports,
): Promise<{ readonly change: HeaderChange; readonly notes: string[] }> {
  const { header } = image;
  const notes: string[] = [];
  const change: { -readonly [K in keyof HeaderChange]: HeaderChange[K] } = {
    ramdiskSize: fresh.ramdisk?.length ?? header.sizes.ramdisk,
    ...(fresh.kernel ? { kernelSize: fresh.kernel.length } : {}),
  };
  if (cmdline !== header.cmdline)
    change.cmdline = {
      text: cmdline,
      breakAt:
        header.cmdline.length > header.cmdlineBreak ? header.cmdlineBreak : Math.min(cmdline.length, 512),
    };
  const dtbo = sectionOf(image, 'recovery_dtbo');
  if (dtbo && recoveryDtboOffsetOf(page) === dtbo.offset)
    change.recoveryDtboOffset = layout.sections.find((section) => section.name === 'recovery_dtbo')!.offset;
  const rule = header.id ? await idRuleOf(image, ports.digests) : null;
  if (rule)
    change.id = await computeId(header, (name) => sectionNow(image, name, fresh), ports.digests, rule);
  else if (header.id) notes.push("the stock image's own id fits no rule, so it is left as it is");
  if (header.sizes.signature > 0)
    notes.push('the boot signature section is left as it was, and does not match the changed image');
  if (cmdline !== header.cmdline && header.sizes.kernel === 0)
    notes.push('a command line in an image without a kernel has no effect on the running system');
  return { change, notes };
}

/** Header bytes that may differ between a stock image and its patched one, by version. */
export function headerDifferences(
  stock: Uint8Array,
  patched: Uint8Array,
  version: number,
  kernelChanged = false,
): string[] {
  const allowed: readonly (readonly [number, number])[] = [
    ...(kernelChanged ? ([[8, 12]] as const) : []),
    ...(version >= 3
      ? ([
          [12, 16],
          [44, 1580],
        ] as const)
      : [[16, 20] as const, [64, 1632] as const, ...(version >= 1 ? ([[1636, 1644]] as const) : [])]),
  ];
  const found: string[] = [];
  for (let i = 0; i < Math.max(stock.length, patched.length); i += 1) {
    if (stock[i] !== patched[i] && !allowed.some(([from, to]) => i >= from && i < to))
      found.push(`byte ${i}`);
  }
  return found;
}
