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

const OTHER_SECTIONS = ['kernel', 'second', 'recovery_dtbo', 'dtb', 'dt', 'signature'] as const;

/**
 * Reads a patched image afresh and holds it against its stock, check by check (docs/method.md, "Proof of a
 * patch").
 * @param applied what the kit's steps made of the stock's entries, computed from the stock
 * @param promised what was to become of the verified-boot data, and of a ramdisk whose kind can't be written;
 *   the partition's bytes, where
 *   known: an image without a footer may grow up to them
 * @throws {EternoError} where the result can't be read at all
 */
export async function provePatch(
  { image: stock, avb: stockAvb, ramdisk: stockRamdisk }: StockSide,
  result: ByteSource,
  applied: AppliedSteps,
  ports: Ports,
  promised: {
    readonly avb?: AvbChoice;
    readonly gzipInstead?: boolean;
    readonly partitionSize?: number;
  } = {},
): Promise<ProofLine[]> {
  const lines: ProofLine[] = [];
  const [avbMode, instead] = [promised.avb?.mode ?? 'carry', promised.gzipInstead ?? false];
  const kinds = (ramdisk: Ramdisk) => ramdisk.streams.map((stream) => stream.compression);
  const say = (check: string, ok: boolean) => lines.push({ check, ok });
  const stockSource = stock.source;
  const [patched, patchedAvb] = [await readBootImage(result), await readAvbFooter(result)];

  const room = promised.partitionSize;
  if (!stockAvb?.footer && room !== undefined && result.size > stockSource.size)
    say('the file is longer than the stock file and no longer than its partition', result.size <= room);
  else say('the file is as long as the stock file', result.size === stockSource.size);
  for (const name of OTHER_SECTIONS) {
    const [a, b] = [await sectionBytes(stock, name), await sectionBytes(patched, name)];
    if (a.length > 0 || b.length > 0) say(`${name} is byte for byte the stock's`, equalBytes(a, b));
  }
  const page = (source: ByteSource) => source.read(0, Math.min(stock.header.pageSize, source.size));
  say(
    'the header differs in nothing but what the patch may change',
    headerDifferences(await page(stockSource), await page(result), stock.header.version).length === 0,
  );
  say('the command line is the stock’s with the kit’s words', patched.header.cmdline === applied.cmdline);

  const patchedRamdisk = await readRamdisk(await sectionBytes(patched, 'ramdisk'), ports.codecs);
  const fresh = archivesOf(patchedRamdisk);
  say(
    instead
      ? 'the ramdisk is packed in the kind it came in, or in gzip as you said'
      : 'the ramdisk is packed in the kind it came in',
    kinds(stockRamdisk).every((kind, i) =>
      [kind, instead ? packedAs(kind, true) : kind].includes(kinds(patchedRamdisk)[i]!),
    ) && kinds(stockRamdisk).length === kinds(patchedRamdisk).length,
  );
  const sameCount = fresh.length === applied.archives.length;
  say(
    'the entries are the stock’s with exactly the kit’s changes',
    sameCount && fresh.every((archive, i) => sameEntries(archive.entries, applied.archives[i]!)),
  );
  const undone = sameCount
    ? undoAll(
        fresh.map((archive) => archive.entries),
        applied.inverses,
      )
    : [];
  const original = archivesOf(stockRamdisk);
  say(
    'taken back, the changes give the stock’s archives byte for byte',
    undone.length === original.length &&
      original.every((archive, i) =>
        sameEntries([...archive.entries, archive.trailer], [...undone[i]!, fresh[i]!.trailer]),
      ),
  );

  const [stockTail, patchedTail] = [await readTail(stock, stockAvb), await readTail(patched, patchedAvb)];
  if (stockTail.bytes.length > 0)
    say('what stands behind the last section is carried', equalBytes(stockTail.bytes, patchedTail.bytes));
  if (stockAvb?.footer) {
    if (avbMode === 'carry')
      say(
        'the verified-boot block is carried byte for byte',
        patchedAvb !== null && equalBytes(stockAvb.blob, patchedAvb.blob),
      );
    else
      for (const line of await renewedAvbLines(stockAvb, patchedAvb, result, avbMode, ports))
        lines.push(line);
    const footer = patchedAvb?.footer;
    const behind = footer
      ? await result.read(footer.vbmetaOffset + footer.vbmetaSize, result.size - 64)
      : null;
    say('the footer points to it, and only zeros stand between', behind !== null && isZero(behind));
  }
  return lines;
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
