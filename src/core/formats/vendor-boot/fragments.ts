import { concatBytes } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import type { VendorRamdiskEntry, VendorRamdiskType } from './layout';
import { VENDOR_RAMDISK_TYPES } from './layout';
import type { VendorBootImage } from './reader';

/* The ramdisks of vendor_boot, one by one (docs/formats.md, "Vendor boot image"). */

const isType = (word: string): word is VendorRamdiskType =>
  (VENDOR_RAMDISK_TYPES as readonly string[]).includes(word);

/**
 * Index of the fragment that a word means: its type where one is of it, else its name.
 * @throws {EternoError} `not-found`, naming what there is
 */
export function fragmentNamed({ source, ramdisks }: VendorBootImage, word: string): number {
  const ofType = isType(word) ? ramdisks.filter(({ type }) => type === word) : [];
  const named = ramdisks.filter(({ name }) => name !== '' && name === word);
  const [found, ...others] = ofType.length === 1 ? ofType : named;
  if (found && others.length === 0) return ramdisks.indexOf(found);
  const there = ramdisks.map(({ type, name }) => (name === '' ? type : `${type} "${name}"`)).join(', ');
  throw new EternoError(
    'not-found',
    ofType.length > 1 || others.length > 0
      ? `several ramdisks fit "${word}" in this vendor_boot (${there}); name the one that is meant`
      : `no ramdisk of this vendor_boot is called "${word}"; there are: ${there}`,
    { file: source.name },
  );
}

export interface LaidFragments {
  /** The vendor ramdisk section. */
  readonly section: Uint8Array<ArrayBuffer>;
  /** Where each fragment lies in it, in the table's order. */
  readonly ramdisks: readonly VendorRamdiskEntry[];
}

/**
 * The section with some fragments replaced. What stands between fragments stays; those behind a changed one move
 * by its change in size, an empty one with them.
 * @param section the stock's
 * @param fresh new bytes by index in the table
 */
export function layFragments(
  section: Uint8Array,
  ramdisks: readonly VendorRamdiskEntry[],
  fresh: ReadonlyMap<number, Uint8Array>,
): LaidFragments {
  const order = ramdisks
    .map((entry, index) => ({ entry, index }))
    .sort((a, b) => a.entry.offset - b.entry.offset || a.entry.size - b.entry.size);
  const parts: Uint8Array[] = [];
  const laid = [...ramdisks];
  /** Up to here the stock's section is in, and so much longer the new one is by then. */
  let [at, moved] = [0, 0];
  for (const { entry, index } of order) {
    // what is empty may be said to lie anywhere
    const from = Math.min(Math.max(at, entry.offset), section.length);
    const bytes = fresh.get(index) ?? section.subarray(from, from + entry.size);
    parts.push(section.subarray(at, from), bytes);
    const offset = entry.size === 0 && bytes.length === 0 ? entry.offset + moved : from + moved;
    laid[index] = { ...entry, offset, size: bytes.length };
    moved += bytes.length - entry.size;
    at = from + entry.size;
  }
  parts.push(section.subarray(at));
  return { section: concatBytes(parts), ramdisks: laid };
}
