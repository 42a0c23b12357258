import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { equalBytes } from '../bytes/bytes';
import { sha256Hex } from '../bytes/digest';
import { EternoError } from '../errors';
import { readAvbFooter } from '../formats/avb/reader';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import type { CpioEntry } from '../formats/cpio/cpio-archive';
import { isKind, makeEntry, TYPE } from '../formats/cpio/cpio-archive';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { isVendorBoot, readVendorBoot } from '../formats/vendor-boot/reader';
import type { Kit, KitStep } from '../kits/kit';
import type { PatchedBy } from '../packages/provenance';
import { provenanceOf } from '../packages/provenance';
import type { Ports, Watch } from '../ports';
import { EntryJournal } from './journal';
import { byFragment, onFragment, ramdisksOf } from './prepare-vendor';
import { proveHoweverMade } from './prove-options';
import { packRamdisk, rebuildImage } from './rebuild';
import { rebuildVendorBoot } from './rebuild-vendor';
import type { RunningStep } from './steps-that-run';

export interface UnpatchedImage {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly sha256: string;
  /** Whether it is byte for byte the stock image that the patched one names. */
  readonly exact: boolean;
  readonly notes: readonly string[];
}

/**
 * The stock ramdisk again. With the stock image the result is that image, and the patch is proved on the way;
 * without it the kit's steps are taken back one by one, which works where every one of them left enough
 * behind.
 * @throws {EternoError} `unsupported` (no ramdisk), `wrong-source` (another stock, another kit), `not-found`
 *   with the stock's hash where a
 *   step can't be taken back
 */
export async function unpatchImage(
  patched: ByteSource,
  kit: Kit,
  stock: ByteSource | null,
  ports: Ports,
  watch: Watch = {},
): Promise<UnpatchedImage> {
  if (await isVendorBoot(patched)) return unpatchVendorBoot(patched, kit, stock, ports, watch);
  const image = await readBootImage(patched);
  const packed = await sectionBytes(image, 'ramdisk');
  if (packed.length === 0)
    throw new EternoError('unsupported', 'the image has no ramdisk', { file: patched.name });
  const ramdisk = await readRamdisk(packed, ports.codecs);
  const note = provenanceOf(archivesOf(ramdisk));
  if (stock) return fromStock(patched, kit, stock, note, ports, watch);
  const journal = new EntryJournal(archivesOf(ramdisk).map((archive) => archive.entries));
  const undone = takeBack(kit, stepsOf(kit), journal, image.header.cmdline, note);
  const rebuilt = await rebuildImage(
    image,
    await readAvbFooter(patched),
    {
      ramdisk: await packRamdisk(ramdisk, journal.archives, ports, { strong: false, gzipInstead: false }),
    },
    undone.cmdline,
    ports,
  );
  return weighed(rebuilt.bytes, note, undone.notes, ports);
}

/** All steps of a kit, as they are counted. */
const stepsOf = ({ steps }: Kit): RunningStep[] => steps.map((step, i) => ({ step, number: i + 1 }));

async function weighed(
  bytes: UnpatchedImage['bytes'],
  note: PatchedBy | null,
  took: readonly string[],
  { digests }: Ports,
): Promise<UnpatchedImage> {
  const sha256 = await sha256Hex(digests, bytes);
  const exact = note !== null && note.stockSha256 === sha256;
  const notes = exact
    ? []
    : [...took, 'it is not byte for byte the stock image, so keep the maker’s own image as the way back'];
  return { bytes, sha256, exact, notes };
}

/** Each of its ramdisks by the steps that worked on it. */
async function unpatchVendorBoot(
  patched: ByteSource,
  kit: Kit,
  stock: ByteSource | null,
  ports: Ports,
  watch: Watch,
): Promise<UnpatchedImage> {
  const image = await readVendorBoot(patched);
  const ramdisks = await ramdisksOf(image, ports);
  const note = provenanceOf([...ramdisks.values()].flatMap(archivesOf));
  if (stock) return fromStock(patched, kit, stock, note, ports, watch);
  const fragments = new Map<number, Uint8Array>();
  const steps = stepsOf(kit);
  const outside = steps.filter((running) => !onFragment(running));
  const undone = takeBack(kit, outside, new EntryJournal([]), image.header.cmdline, note);
  const took = [...undone.notes];
  for (const [index, own] of byFragment(image, steps.filter(onFragment))) {
    const ramdisk = ramdisks.get(index);
    if (!ramdisk)
      throw new EternoError('unsupported', 'a step works on a ramdisk of vendor_boot that is empty', {
        file: patched.name,
      });
    const journal = new EntryJournal(archivesOf(ramdisk).map((archive) => archive.entries));
    took.push(...takeBack(kit, own, journal, '', note).notes);
    const packing = { strong: false, gzipInstead: false };
    fragments.set(index, await packRamdisk(ramdisk, journal.archives, ports, packing));
  }
  const { cmdline } = undone;
  const rebuilt = await rebuildVendorBoot(
    image,
    await readAvbFooter(patched),
    { fragments, ...(cmdline === image.header.cmdline ? {} : { cmdline }) },
    ports,
  );
  return weighed(rebuilt.bytes, note, took, ports);
}

async function fromStock(
  patched: ByteSource,
  kit: Kit,
  stock: ByteSource,
  note: PatchedBy | null,
  ports: Ports,
  watch: Watch,
): Promise<UnpatchedImage> {
  const bytes = await stock.read(0, stock.size, watch.signal);
  const sha256 = await sha256Hex(ports.digests, bytes);
  if (note && note.stockSha256 !== sha256)
    throw new EternoError(
      'wrong-source',
      `the patched image names the stock image ${note.stockSha256}, this one is ${sha256}`,
      {
        file: stock.name,
        details: { expected: note.stockSha256, got: sha256 },
      },
    );
  const proof = await proveHoweverMade(memorySource(bytes, stock.name), kit, patched, ports);
  const failed = proof.filter((line) => !line.ok).map((line) => line.check);
  if (failed.length > 0)
    throw new EternoError(
      'wrong-source',
      `this is not ${kit.name} ${kit.version} on that stock image: ${failed.join('; ')}`,
      { file: patched.name },
    );
  return { bytes, sha256, exact: true, notes: [] };
}

const utf8 = (text: string) => new TextEncoder().encode(text);

/** Takes steps of a kit back, last first. */
function takeBack(
  kit: Kit,
  steps: readonly RunningStep[],
  journal: EntryJournal,
  cmdline: string,
  note: PatchedBy | null,
): { cmdline: string; notes: string[] } {
  const notes: string[] = [];
  let line = cmdline;
  const lost = ({ step, number }: RunningStep, why: string) =>
    new EternoError(
      'not-found',
      `step ${number} (${step.do}) can't be taken back: ${why}; the stock image ${note?.stockSha256 ?? 'it was made from'} is needed`,
      { details: { stockSha256: note?.stockSha256 ?? null, step: number } },
    );
  for (const running of [...steps].reverse()) {
    const { step } = running;
    if (step.when.length > 0) throw lost(running, 'whether it ran on that image was not kept');
    switch (step.do) {
      case 'mkdir':
      case 'add':
      case 'write':
      case 'link': {
        if (step.replace) throw lost(running, 'what it replaced is gone');
        const position = journal.inForce(utf8(step.path));
        if (!position || !madeBy(kit, step, journal.at(position)))
          throw lost(running, `"${step.path}" is not there as the kit makes it`);
        journal.delete(position);
        break;
      }
      case 'keep': {
        const position = journal.inForce(utf8(step.as));
        if (!position) {
          if (step.ifPresent) break;
          throw lost(running, `"${step.as}" is not there`);
        }
        const { magic, upperCase, fields, data } = journal.at(position);
        journal.delete(position);
        journal.append(makeEntry(magic, upperCase, fields, utf8(step.path), data));
        notes.push(
          `"${step.path}" stands at the end of the archive now; where the stock had it was not kept`,
        );
        break;
      }
      case 'cmdline': {
        const addition = ` ${String.fromCharCode(...utf8(step.append))}`;
        if (!line.endsWith(addition))
          throw lost(running, 'the command line does not end with what it appends');
        line = line.slice(0, -addition.length);
        break;
      }
      case 'remove':
        throw lost(running, `whether "${step.path}" was there, and what it held, is gone`);
      case 'replaceText':
        throw lost(running, `which places in "${step.path}" it changed was not kept`);
      case 'replaceBytes':
        throw lost(running, `which places in the ${step.in} it changed was not kept`);
      case 'kernel':
        throw lost(running, 'the kernel that it replaced is gone');
    }
  }
  return { cmdline: line, notes };
}

function madeBy(
  kit: Kit,
  step: Extract<KitStep, { do: 'mkdir' | 'add' | 'write' | 'link' }>,
  entry: CpioEntry,
): boolean {
  switch (step.do) {
    case 'mkdir':
      return isKind(entry, TYPE.directory);
    case 'add':
      return isKind(entry, TYPE.file) && equalBytes(entry.data, kit.files.get(step.from)!);
    case 'write':
      return isKind(entry, TYPE.file);
    case 'link':
      return isKind(entry, TYPE.link) && equalBytes(entry.data, utf8(step.to));
  }
}
