import type { ByteSource } from '../bytes/byte-source';
import { equalBytes, isZero } from '../bytes/bytes';
import type { AvbData } from '../formats/avb/reader';
import { checkDigest, checkSignature, readAvbFooter } from '../formats/avb/reader';
import { readKernel } from '../formats/boot-image/kernel';
import { withPartHeader } from '../bytes/part-header';
import type { BootImage } from '../formats/boot-image/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import type { Ports } from '../ports';
import { takenBack } from './apply-sections';
import type { AppliedSteps } from './apply-steps';
import { sameEntries, undoAll } from './journal';
import type { Prepared } from './prepare-patch';
import type { AvbChoice, Sectioned } from './place-content';
import { readTail } from './place-content';
import { headerDifferences, packedAs } from './rebuild';

export interface ProofLine {
  readonly check: string;
  readonly ok: boolean;
}

/**
 * What was to become of the verified-boot data, and of a ramdisk whose kind can't be written; the partition's
 * bytes, where known: an image without a footer may grow up to them.
 */
export interface Promised {
  readonly avb?: AvbChoice;
  readonly gzipInstead?: boolean;
  readonly partitionSize?: number;
}

const OTHER_SECTIONS = ['kernel', 'second', 'recovery_dtbo', 'dtb', 'dt', 'signature'] as const;

/**
 * Reads a patched image afresh and holds it against its stock, check by check (docs/method.md, "Proof of a
 * patch").
 * @param stock the stock image, and what the kit's steps make of it
 * @throws {EternoError} where the result can't be read at all
 */
export async function provePatch(
  stock: Prepared,
  result: ByteSource,
  ports: Ports,
  promised: Promised = {},
): Promise<ProofLine[]> {
  const [patched, patchedAvb] = [await readBootImage(result), await readAvbFooter(result)];
  return [
    lengthLine(stock, result, promised.partitionSize),
    ...(await sectionLines(stock, patched)),
    ...(await kernelLines(stock, patched, ports)),
    ...(await dtbLines(stock, patched)),
    ...(await headerLines(stock, patched, result)),
    ...(await ramdiskLines(stock, patched, ports, promised.gzipInstead ?? false)),
    ...(await tailLines(stock, { image: patched, avb: patchedAvb })),
    ...(await avbLines(stock.avb, patchedAvb, result, promised.avb?.mode ?? 'carry', ports)),
  ];
}

export const line = (check: string, ok: boolean): ProofLine => ({ check, ok });

export function lengthLine({ image, avb }: WithAvb, result: ByteSource, room: number | undefined): ProofLine {
  const stockSize = image.source.size;
  return !avb?.footer && room !== undefined && result.size > stockSize
    ? line('the file is longer than the stock file and no longer than its partition', result.size <= room)
    : line('the file is as long as the stock file', result.size === stockSize);
}

/** Sections that no step changed. */
const sectionLines = ({ image, changed }: Prepared, patched: BootImage): Promise<ProofLine[]> =>
  otherSectionLines(
    image,
    patched,
    (['kernel', 'dtb'] as const).filter((name) => changed[name] !== null),
  );

/** Every section but the ramdisk; those that were changed are held against what they were to become. */
export async function otherSectionLines(
  image: BootImage,
  patched: BootImage,
  changed: readonly string[] = [],
): Promise<ProofLine[]> {
  const lines: ProofLine[] = [];
  for (const name of OTHER_SECTIONS) {
    if (changed.includes(name)) continue;
    const [a, b] = [await sectionBytes(image, name), await sectionBytes(patched, name)];
    if (a.length > 0 || b.length > 0)
      lines.push(line(`${name} is byte for byte the stock's`, equalBytes(a, b)));
  }
  return lines;
}

/** A kernel that the steps changed, unpacked again. */
async function kernelLines(
  { sections, changed }: Prepared,
  patched: BootImage,
  { codecs }: Ports,
): Promise<ProofLine[]> {
  const [own, now] = [sections.kernel, changed.kernel];
  if (own === null || now === null) return [];
  const section = await sectionBytes(patched, 'kernel');
  if (now.isWhole)
    return [
      line('the kernel is the kit’s, byte for byte', equalBytes(section, withPartHeader(own, now.bytes))),
    ];
  const fresh = await readKernel(section, codecs);
  return [
    line('the kernel is the stock’s with exactly the kit’s changes', equalBytes(fresh.plain, now.bytes)),
    line(
      'taken back, they give the stock’s kernel byte for byte',
      equalBytes(takenBack(fresh.plain, now.edits), own.plain),
    ),
    line(
      'the kernel is packed in the kind it came in, and what follows it is carried',
      fresh.compression === own.compression &&
        equalBytes(fresh.tail, own.tail) &&
        fresh.header.length === own.header.length,
    ),
  ];
}

async function dtbLines({ sections, changed: { dtb } }: Prepared, patched: BootImage): Promise<ProofLine[]> {
  if (dtb === null || sections.dtb === null) return [];
  const fresh = await sectionBytes(patched, 'dtb');
  return [
    line('the dtb is the stock’s with exactly the kit’s changes', equalBytes(fresh, dtb.bytes)),
    line(
      'taken back, they give the stock’s dtb byte for byte',
      fresh.length === sections.dtb.length && equalBytes(takenBack(fresh, dtb.edits), sections.dtb),
    ),
  ];
}

async function headerLines(
  { image: stock, applied, changed }: Prepared,
  patched: BootImage,
  result: ByteSource,
): Promise<ProofLine[]> {
  const kernelChanged = changed.kernel !== null;
  const page = (source: ByteSource) => source.read(0, Math.min(stock.header.pageSize, source.size));
  return [
    line(
      'the header differs in nothing but what the patch may change',
      headerDifferences(await page(stock.source), await page(result), stock.header.version, kernelChanged)
        .length === 0,
    ),
    line('the command line is the stock’s with the kit’s words', patched.header.cmdline === applied.cmdline),
  ];
}

async function ramdiskLines(
  { ramdisk: stock, applied }: Prepared,
  patched: BootImage,
  { codecs }: Ports,
  gzipInstead: boolean,
): Promise<ProofLine[]> {
  const section = await sectionBytes(patched, 'ramdisk');
  if (stock === null) return [line('there is no ramdisk, as in the stock image', section.length === 0)];
  const fresh = await readRamdisk(section, codecs);
  return [kindLine(stock, fresh, gzipInstead), ...entryLines(stock, fresh, applied)];
}

export function kindLine(stock: Ramdisk, patched: Ramdisk, gzipInstead: boolean): ProofLine {
  const kinds = (ramdisk: Ramdisk) => ramdisk.streams.map((stream) => stream.compression);
  const [own, made] = [kinds(stock), kinds(patched)];
  return line(
    gzipInstead
      ? 'the ramdisk is packed in the kind it came in, or in gzip as you said'
      : 'the ramdisk is packed in the kind it came in',
    samePartHeader(stock.header, patched.header) &&
      own.length === made.length &&
      own.every((kind, i) => [kind, gzipInstead ? packedAs(kind, true) : kind].includes(made[i]!)),
  );
}

/** Whether two part headers are the same but for the size that they state, which the reader checks. */
const samePartHeader = (a: Uint8Array, b: Uint8Array): boolean =>
  equalBytes(
    withPartHeader({ header: a }, new Uint8Array(0)),
    withPartHeader({ header: b }, new Uint8Array(0)),
  );

export function entryLines(stock: Ramdisk, patched: Ramdisk, applied: AppliedSteps): ProofLine[] {
  const [original, fresh] = [archivesOf(stock), archivesOf(patched)];
  const sameCount = fresh.length === applied.archives.length;
  const undone = sameCount
    ? undoAll(
        fresh.map((archive) => archive.entries),
        applied.inverses,
      )
    : [];
  return [
    line(
      'the entries are the stock’s with exactly the kit’s changes',
      sameCount && fresh.every((archive, i) => sameEntries(archive.entries, applied.archives[i]!)),
    ),
    line(
      'taken back, the changes give the stock’s archives byte for byte',
      undone.length === original.length &&
        original.every((archive, i) =>
          sameEntries([...archive.entries, archive.trailer], [...undone[i]!, fresh[i]!.trailer]),
        ),
    ),
  ];
}

interface WithAvb {
  readonly image: Sectioned;
  readonly avb: AvbData | null;
}

export async function tailLines(stock: WithAvb, patched: WithAvb): Promise<ProofLine[]> {
  const own = await readTail(stock.image, stock.avb);
  if (own.bytes.length === 0) return [];
  const made = await readTail(patched.image, patched.avb);
  return [line('what stands behind the last section is carried', equalBytes(own.bytes, made.bytes))];
}

export async function avbLines(
  stock: AvbData | null,
  patched: AvbData | null,
  result: ByteSource,
  mode: AvbChoice['mode'],
  ports: Ports,
): Promise<ProofLine[]> {
  if (!stock?.footer) return [];
  const block =
    mode === 'carry'
      ? [
          line(
            'the verified-boot block is carried byte for byte',
            patched !== null && equalBytes(stock.blob, patched.blob),
          ),
        ]
      : await renewedAvbLines(stock, patched, result, mode, ports);
  const footer = patched?.footer;
  const behind = footer ? await result.read(footer.vbmetaOffset + footer.vbmetaSize, result.size - 64) : null;
  return [
    ...block,
    line('the footer points to it, and only zeros stand between', behind !== null && isZero(behind)),
  ];
}

/** What must hold of a vbmeta block that was brought up to date. */
async function renewedAvbLines(
  stock: AvbData,
  patched: AvbData | null,
  result: ByteSource,
  mode: 'rehash' | 'sign',
  ports: Ports,
): Promise<ProofLine[]> {
  const block = patched?.vbmeta;
  const kept = ['rollbackIndex', 'rollbackIndexLocation', 'flags', 'release'] as const;
  const signature = block ? await checkSignature(block, ports.digests) : null;
  return [
    {
      check: 'the digest in the image holds',
      ok: patched !== null && (await checkDigest(result, patched, ports.digests)) === true,
    },
    {
      check:
        mode === 'sign'
          ? 'the signature holds, by the key that stands beside it'
          : 'the verified-boot block is unsigned and carries no key',
      ok:
        mode === 'sign'
          ? signature === true
          : block?.algorithm === 0 && block.publicKey.length === 0 && block.signature.length === 0,
    },
    {
      check: 'rollback index, flags and properties are the stock’s',
      ok:
        block !== undefined &&
        kept.every((key) => block[key] === stock.vbmeta[key]) &&
        JSON.stringify(block.properties) === JSON.stringify(stock.vbmeta.properties),
    },
  ];
}
