import type { ByteSource } from '../bytes/byte-source';
import { sha256OfSource } from '../bytes/digest';
import { EternoError, throwIfAborted } from '../errors';
import { readAvbFooter } from '../formats/avb/reader';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf, readRamdisk } from '../formats/cpio/ramdisk';
import { fragmentNamed } from '../formats/vendor-boot/fragments';
import type { VendorBootImage } from '../formats/vendor-boot/reader';
import { readVendorBoot, vendorRamdiskBytes, vendorSectionBytes } from '../formats/vendor-boot/reader';
import type { Kit, RamdiskStep } from '../kits/kit';
import { identifyImage } from '../packages/bare-image';
import type { Ports, Watch } from '../ports';
import { applySections } from './apply-sections';
import type { EntryChanges } from './apply-steps';
import { applySteps } from './apply-steps';
import type { PatchOptions } from './prepare-patch';
import { checkSupport, needsRamdisk, refusePatched, variablesFor } from './prepare-patch';
import type { ChangedVendorBoot, NewFragment } from './prove-vendor';
import { packRamdisk } from './rebuild';
import type { NewVendorParts } from './rebuild-vendor';
import { stockFacts } from './stock-facts';
import type { RunningStep } from './steps-that-run';
import { optionsOf, stepsThatRun } from './steps-that-run';

/* What a kit's steps make of vendor_boot: each ramdisk of its table for itself (docs/formats.md, "Patch kit"). */

export interface PreparedVendor extends ChangedVendorBoot {
  readonly stockSha256: string;
  readonly changes: EntryChanges;
  readonly notes: readonly string[];
}

export type OnFragment = RunningStep & { readonly step: RamdiskStep };
export const onFragment = (running: RunningStep): running is OnFragment => needsRamdisk(running.step);

/** @throws {EternoError} of `patchImage`, `not-found` for a ramdisk that a step names */
export async function prepareVendor(
  stock: ByteSource,
  kit: Kit,
  ports: Ports,
  options: PatchOptions,
  { signal }: Watch,
): Promise<PreparedVendor> {
  const identity = await identifyImage(stock, ports);
  checkSupport(kit, identity.partition, options);
  const chosen = optionsOf(kit, options.chosen);
  const [image, avb] = [await readVendorBoot(stock), await readAvbFooter(stock)];
  const ramdisks = await ramdisksOf(image, ports);
  const archives = [...ramdisks.values()].flatMap(archivesOf);
  refusePatched(kit, archives, stock.name);
  const stockSha256 = await sha256OfSource(ports.digests, stock, signal);
  throwIfAborted(signal);
  const { version: headerVersion, cmdline } = image.header;
  const { steps, notes } = stepsThatRun(
    kit,
    stockFacts({
      partition: identity.partition,
      headerVersion,
      osVersionField: 0,
      properties: avb?.vbmeta.properties ?? {},
      fingerprint: identity.build.fingerprint,
      kernel: null,
      archives,
    }),
    chosen,
  );
  const variables = await variablesFor(
    kit,
    { stock, stockSha256, identity, headerVersion, chosen, options },
    ports,
  );
  const fragments = new Map<number, Extract<NewFragment, { by: 'kit' }>>();
  for (const [index, own] of byFragment(image, steps.filter(onFragment))) {
    const ramdisk = ramdisks.get(index);
    if (!ramdisk)
      throw new EternoError('unsupported', 'a step works on a ramdisk of vendor_boot that is empty', {
        file: stock.name,
      });
    fragments.set(index, {
      by: 'kit',
      ramdisk,
      applied: applySteps(kit, own, archivesOf(ramdisk), '', variables),
    });
  }
  const dtb = await vendorSectionBytes(image, 'dtb');
  const applied = [...fragments.values()].map((one) => one.applied.changes);
  const all = (what: keyof EntryChanges) => applied.flatMap((changes) => changes[what]);
  return {
    image,
    avb,
    fragments,
    cmdline: applySteps(
      kit,
      steps.filter((one) => !onFragment(one)),
      [],
      cmdline,
      variables,
    ).cmdline,
    dtb: applySections(kit, steps, { kernel: null, dtb: dtb.length > 0 ? dtb : null }).dtb,
    stockSha256,
    changes: { added: all('added'), removed: all('removed'), changed: all('changed'), moved: all('moved') },
    notes,
  };
}

/** Ramdisks by their index in the table, without the empty ones. */
export async function ramdisksOf(image: VendorBootImage, { codecs }: Ports): Promise<Map<number, Ramdisk>> {
  const ramdisks = new Map<number, Ramdisk>();
  for (const [i, entry] of image.ramdisks.entries()) {
    if (entry.size === 0) continue;
    try {
      ramdisks.set(i, await readRamdisk(await vendorRamdiskBytes(image, entry), codecs));
    } catch (thrown) {
      throw thrown instanceof EternoError ? thrown.inFile(image.source.name) : thrown;
    }
  }
  return ramdisks;
}

/** The steps of each ramdisk, in the kit's order; one that names none works on the only one, else the platform's. */
export function byFragment(image: VendorBootImage, steps: readonly OnFragment[]): Map<number, OnFragment[]> {
  const found = new Map<number, OnFragment[]>();
  for (const running of steps) {
    const { fragment } = running.step;
    const only = image.ramdisks.length === 1 && fragment === null;
    const index = only ? 0 : fragmentNamed(image, fragment ?? 'platform');
    found.set(index, [...(found.get(index) ?? []), running]);
  }
  return found;
}

/** What the steps made, packed. @throws {EternoError} of packing */
export async function vendorPartsOf(
  { image, fragments, cmdline, dtb }: PreparedVendor,
  ports: Ports,
  { gzipInstead = false }: Pick<PatchOptions, 'gzipInstead'>,
  strong: boolean,
): Promise<NewVendorParts> {
  const packed = new Map<number, Uint8Array>();
  for (const [index, changed] of fragments)
    if (changed.by === 'kit')
      packed.set(
        index,
        await packRamdisk(changed.ramdisk, changed.applied.archives, ports, { strong, gzipInstead }),
      );
  return {
    fragments: packed,
    ...(dtb ? { dtb: dtb.bytes } : {}),
    ...(cmdline === image.header.cmdline ? {} : { cmdline }),
  };
}
