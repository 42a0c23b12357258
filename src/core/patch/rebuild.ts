import { alignUp, concatBytes, lengthWithoutZeros } from '../bytes/bytes';
import type { Compression } from '../codecs/codec';
import { EternoError } from '../errors';
import { FOOTER_BYTES, footerBytes } from '../formats/avb/layout';
import type { AvbData } from '../formats/avb/reader';
import type { SigningKey } from '../formats/avb/rewrite';
import { renewVbmeta } from '../formats/avb/rewrite';
import type { BootSectionName, HeaderChange } from '../formats/boot-image/layout';
import { layOutSections, recoveryDtboOffsetOf, rewriteHeader } from '../formats/boot-image/layout';
import type { BootImage } from '../formats/boot-image/reader';
import { computeId, idRuleOf, sectionBytes, sectionOf } from '../formats/boot-image/reader';
import type { CpioEntry } from '../formats/cpio/cpio-archive';
import type { Ramdisk, RamdiskStream } from '../formats/cpio/ramdisk';
import { streamBytes } from '../formats/cpio/ramdisk';
import type { Ports } from '../ports';
import { sameEntries } from './journal';

/**
 * Bytes behind the last section that belong to nobody we know: a maker's marker, kept right behind the last
 * section.
 */
export interface Tail {
  readonly bytes: Uint8Array;
  /** Whether it begins at the next page after the last section, or right at the section's own end. */
  readonly paged: boolean;
}

/**
 * What stands between the last section and the AVB data, or, without a footer, the last byte that is not
 * zero.
 */
export async function readTail(image: BootImage, avb: AvbData | null): Promise<Tail> {
  const { source, end, alignedEnd } = image;
  const limit = avb?.footer ? avb.footer.originalImageSize : source.size;
  if (limit <= end) return { bytes: new Uint8Array(0), paged: true };
  const gap = await source.read(end, limit);
  const inPage = Math.min(gap.length, alignedEnd - end);
  const paged = lengthWithoutZeros(gap.subarray(0, inPage)) === 0;
  const bytes = paged ? gap.subarray(inPage) : gap;
  return { bytes: avb?.footer ? bytes : bytes.subarray(0, lengthWithoutZeros(bytes)), paged };
}

export interface RebuiltImage {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly notes: readonly string[];
}

/**
 * What becomes of verified-boot data behind the image: carried as it was, brought up to date unsigned, or
 * signed with the person's key.
 */
export type AvbChoice =
  | { readonly mode: 'carry' }
  | { readonly mode: 'rehash' }
  | { readonly mode: 'sign'; readonly key: SigningKey };

export interface RebuildOptions {
  /** Default `carry`. */
  readonly avb?: AvbChoice;
  /** Where the stock file carries no footer and more room is needed; bytes. */
  readonly partitionSize?: number;
}

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
  return concatBytes(parts);
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
  const tail = await readTail(image, avb);
  const contentEnd = contentEndOf(layout, tail, avb);
  const choice = options.avb ?? { mode: 'carry' };
  if (choice.mode !== 'carry' && !avb?.footer)
    throw new EternoError(
      'unsupported',
      'the image carries no verified-boot data of its own that could be brought up to date',
      { file: source.name },
    );
  // the block's length does not depend on the image, so its place is known before its digest is
  const draft = avb?.footer ? await vbmetaFor(avb, new Uint8Array(0), choice, ports) : null;
  const size = sizeOf(source.size, draft, contentEnd, options);
  const out = new Uint8Array(size);
  out.set(rewriteHeader(page, header, change));
  for (const section of layout.sections) {
    if (section.name === 'header') continue;
    out.set(await sectionNow(image, section.name, fresh), section.offset);
  }
  if (tail.bytes.length > 0) out.set(tail.bytes, contentEnd - tail.bytes.length);
  if (avb?.footer) {
    await setFooter(out, contentEnd, avb, choice, ports);
    notes.push(AVB_NOTES[choice.mode]);
  }
  return { bytes: out, notes };
}

const sectionNow = async (image: BootImage, name: BootSectionName, fresh: NewSections): Promise<Uint8Array> =>
  (name === 'ramdisk' || name === 'kernel' || name === 'dtb' ? fresh[name] : undefined) ??
  sectionBytes(image, name);

/** Where the last section and what stands behind it end. */
const contentEndOf = (
  layout: ReturnType<typeof layOutSections>,
  tail: Awaited<ReturnType<typeof readTail>>,
  avb: AvbData | null,
): number => {
  if (tail.bytes.length > 0) return (tail.paged ? layout.alignedEnd : layout.end) + tail.bytes.length;
  return avb?.footer ? layout.alignedEnd : layout.end;
};

/** Sets verified-boot block and footer behind the content. */
async function setFooter(
  out: Uint8Array,
  contentEnd: number,
  avb: AvbData,
  choice: AvbChoice,
  ports: Ports,
): Promise<void> {
  const vbmetaOffset = alignUp(contentEnd, 4096);
  const blob = await vbmetaFor(avb, out.subarray(0, contentEnd), choice, ports);
  out.set(blob, vbmetaOffset);
  out.set(
    footerBytes({ originalImageSize: contentEnd, vbmetaOffset, vbmetaSize: blob.length }),
    out.length - FOOTER_BYTES,
  );
}

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

const AVB_NOTES: Readonly<Record<AvbChoice['mode'], string>> = {
  carry:
    'verified-boot data is left as it was; its digest is the stock image’s, which an unlocked bootloader does not check',
  rehash:
    'the digest in the image is brought up to date and unsigned; a descriptor of this partition in the main vbmeta still has the stock image’s digest',
  sign: 'the digest in the image is brought up to date and signed with your key; a locked bootloader takes it only where that key is enrolled, and a descriptor in the main vbmeta still has the stock image’s digest',
};

async function vbmetaFor(
  avb: AvbData,
  image: Uint8Array,
  choice: AvbChoice,
  { digests }: Ports,
): Promise<Uint8Array> {
  if (choice.mode === 'carry') return avb.blob;
  return renewVbmeta(avb, image, digests, choice.mode === 'sign' ? choice.key : null);
}

/** @param vbmeta the block behind the image, or null where there is none */
function sizeOf(
  stockSize: number,
  vbmeta: Uint8Array | null,
  contentEnd: number,
  { partitionSize }: RebuildOptions,
): number {
  if (vbmeta) {
    const over = alignUp(contentEnd, 4096) + vbmeta.length + FOOTER_BYTES - stockSize;
    if (over > 0) throw doesNotFit(over, stockSize);
    return stockSize;
  }
  if (contentEnd <= stockSize) return stockSize;
  if (partitionSize === undefined) throw doesNotFit(contentEnd - stockSize, stockSize);
  if (contentEnd > partitionSize) throw doesNotFit(contentEnd - partitionSize, partitionSize);
  return contentEnd;
}

function doesNotFit(over: number, room: number): EternoError {
  return new EternoError(
    'does-not-fit',
    `the patched image is ${over} bytes longer than the ${room} bytes there are; a smaller kit or a known larger partition are the ways out`,
    {
      details: { bytesOver: over, room },
    },
  );
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
