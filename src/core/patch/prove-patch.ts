import type { ByteSource } from '../bytes/byte-source';
import { equalBytes, isZero } from '../bytes/bytes';
import type { AvbData } from '../formats/avb/reader';
import { checkDigest, checkSignature, readAvbFooter } from '../formats/avb/reader';
import type { BootImage } from '../formats/boot-image/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import type { Ports } from '../ports';
import type { AppliedSteps } from './apply-steps';
import { sameEntries, undoAll } from './journal';
import type { AvbChoice } from './rebuild';
import { headerDifferences, packedAs, readTail } from './rebuild';

export interface ProofLine {
  readonly check: string;
  readonly ok: boolean;
}

/** The stock image as it was read for the patch. */
export interface StockSide {
  readonly image: BootImage;
  readonly avb: AvbData | null;
  readonly ramdisk: Ramdisk;
}

/**
 * What was to become of the verified-boot data, and of a ramdisk whose kind can't be written; the partition's
 * bytes, where known: an image without a footer may grow up to them.
 */
interface Promised {
  readonly avb?: AvbChoice;
  readonly gzipInstead?: boolean;
  readonly partitionSize?: number;
}

const OTHER_SECTIONS = ['kernel', 'second', 'recovery_dtbo', 'dtb', 'dt', 'signature'] as const;

/**
 * Reads a patched image afresh and holds it against its stock, check by check (docs/method.md, "Proof of a
 * patch").
 * @param applied what the kit's steps made of the stock's entries, computed from the stock
 * @throws {EternoError} where the result can't be read at all
 */
export async function provePatch(
  stock: StockSide,
  result: ByteSource,
  applied: AppliedSteps,
  ports: Ports,
  promised: Promised = {},
): Promise<ProofLine[]> {
  const [patched, patchedAvb] = [await readBootImage(result), await readAvbFooter(result)];
  const ramdisk = await readRamdisk(await sectionBytes(patched, 'ramdisk'), ports.codecs);
  return [
    lengthLine(stock, result, promised.partitionSize),
    ...(await sectionLines(stock.image, patched)),
    ...(await headerLines(stock.image, patched, result, applied)),
    kindLine(stock.ramdisk, ramdisk, promised.gzipInstead ?? false),
    ...entryLines(stock.ramdisk, ramdisk, applied),
    ...(await tailLines(stock, { image: patched, avb: patchedAvb })),
    ...(await avbLines(stock.avb, patchedAvb, result, promised.avb?.mode ?? 'carry', ports)),
  ];
}

const line = (check: string, ok: boolean): ProofLine => ({ check, ok });

function lengthLine({ image, avb }: StockSide, result: ByteSource, room: number | undefined): ProofLine {
  const stockSize = image.source.size;
  return !avb?.footer && room !== undefined && result.size > stockSize
    ? line('the file is longer than the stock file and no longer than its partition', result.size <= room)
    : line('the file is as long as the stock file', result.size === stockSize);
}

async function sectionLines(stock: BootImage, patched: BootImage): Promise<ProofLine[]> {
  const lines: ProofLine[] = [];
  for (const name of OTHER_SECTIONS) {
    const [a, b] = [await sectionBytes(stock, name), await sectionBytes(patched, name)];
    if (a.length > 0 || b.length > 0)
      lines.push(line(`${name} is byte for byte the stock's`, equalBytes(a, b)));
  }
  return lines;
}

async function headerLines(
  stock: BootImage,
  patched: BootImage,
  result: ByteSource,
  applied: AppliedSteps,
): Promise<ProofLine[]> {
  const page = (source: ByteSource) => source.read(0, Math.min(stock.header.pageSize, source.size));
  return [
    line(
      'the header differs in nothing but what the patch may change',
      headerDifferences(await page(stock.source), await page(result), stock.header.version).length === 0,
    ),
    line('the command line is the stock’s with the kit’s words', patched.header.cmdline === applied.cmdline),
  ];
}

function kindLine(stock: Ramdisk, patched: Ramdisk, gzipInstead: boolean): ProofLine {
  const kinds = (ramdisk: Ramdisk) => ramdisk.streams.map((stream) => stream.compression);
  const [own, made] = [kinds(stock), kinds(patched)];
  return line(
    gzipInstead
      ? 'the ramdisk is packed in the kind it came in, or in gzip as you said'
      : 'the ramdisk is packed in the kind it came in',
    own.length === made.length &&
      own.every((kind, i) => [kind, gzipInstead ? packedAs(kind, true) : kind].includes(made[i]!)),
  );
}

function entryLines(stock: Ramdisk, patched: Ramdisk, applied: AppliedSteps): ProofLine[] {
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

async function tailLines(
  stock: StockSide,
  patched: { readonly image: BootImage; readonly avb: AvbData | null },
): Promise<ProofLine[]> {
  const own = await readTail(stock.image, stock.avb);
  if (own.bytes.length === 0) return [];
  const made = await readTail(patched.image, patched.avb);
  return [line('what stands behind the last section is carried', equalBytes(own.bytes, made.bytes))];
}

async function avbLines(
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
