import { otherBuildNamed } from '../fit/named-build';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { LineageNote, LineageSays } from '../words/lineage';

/* Where an image stands among those that are known (docs/method.md, "Lineage"). */

export type ImageRole = 'stock' | 'patched' | 'recovery' | 'unknown';

/** An image as the vault knows it. */
export interface KnownImage {
  readonly sha256: string;
  readonly partition: string;
  readonly role: ImageRole;
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
  readonly kit: string | null;
  readonly stockSha256: string | null;
}

/** The build it is wanted for, and under which name and on which shelf it came. */
export interface LineageContext {
  readonly fileName: string | null;
  readonly installedFingerprint: string | null;
  readonly wantedPartition: string | null;
  readonly known: readonly KnownImage[];
}

export interface Lineage {
  /** From the image back to the stock it comes from. */
  readonly chain: readonly KnownImage[];
  readonly notes: readonly LineageNote[];
  /** What it is, of which build, patched by what. */
  readonly says: LineageSays;
}

const buildIdOf = (fingerprint: string | null) =>
  fingerprint === null ? null : (splitFingerprint(fingerprint)?.id ?? null);

const PARTITION_IN_NAME = /(init_boot|vendor_boot|recovery|vbmeta|boot)/;

function chainOf(image: KnownImage, known: readonly KnownImage[]): KnownImage[] {
  const chain = [image];
  let stock = image.stockSha256;
  while (stock !== null && chain.length < 8) {
    const next = known.find((one) => one.sha256 === stock);
    if (!next || chain.includes(next)) break;
    chain.push(next);
    stock = next.stockSha256;
  }
  return chain;
}

/** Recognises an image by its content, whatever its name says. */
export function judgeLineage(image: KnownImage, context: LineageContext): Lineage {
  const { fileName, known } = context;
  const chain = chainOf(image, known);
  const stock = chain[1];
  const notes = [
    ...(fileName === null ? [] : nameNotes(image, fileName)),
    ...wantedNotes(image, context),
    ...originNotes(image, stock),
  ];
  const { partition, role, kit, stockSha256 } = image;
  const from = stock ?? (stockSha256 === null ? null : { sha256: stockSha256, role: null });
  return {
    chain,
    notes,
    says: {
      partition,
      role,
      kit,
      build: buildIdOf(image.fingerprint),
      from: from && { sha256: from.sha256, role: from.role },
    },
  };
}

/** What its file's name says otherwise than its content. */
function nameNotes(image: KnownImage, fileName: string): LineageNote[] {
  const build = buildIdOf(image.fingerprint);
  const named = build === null ? null : otherBuildNamed(fileName, build);
  const partition = PARTITION_IN_NAME.exec(fileName.toLowerCase())?.[1] ?? null;
  return [
    ...(named !== null && build !== null
      ? [{ code: 'build-renamed', name: named, content: build } as const]
      : []),
    ...(partition !== null && partition !== image.partition
      ? [{ code: 'partition-renamed', name: partition, content: image.partition } as const]
      : []),
  ];
}

/** Where it is not what is wanted: another partition, handset or build. */
function wantedNotes(image: KnownImage, { wantedPartition, installedFingerprint }: LineageContext) {
  const notes: LineageNote[] = [];
  if (wantedPartition !== null && image.partition !== wantedPartition && image.role === 'patched')
    notes.push({ code: 'wrong-partition', partition: image.partition, wanted: wantedPartition });
  const own = image.fingerprint === null ? null : splitFingerprint(image.fingerprint);
  const handset = installedFingerprint === null ? null : splitFingerprint(installedFingerprint);
  if (!own || !handset) return notes;
  if (own.device !== handset.device || own.product !== handset.product)
    notes.push({
      code: 'wrong-handset',
      image: { product: own.product, device: own.device },
      handset: { product: handset.product, device: handset.device },
    });
  else if (image.fingerprint !== installedFingerprint)
    notes.push({ code: 'stale', build: own.id, installed: handset.id });
  return notes;
}

/** What is odd about where a patched image came from. */
function originNotes({ role, stockSha256 }: KnownImage, stock: KnownImage | undefined): LineageNote[] {
  if (role !== 'patched') return [];
  if (stock) return stock.role === 'patched' ? [{ code: 'doubly-patched', kit: stock.kit }] : [];
  return stockSha256 === null ? [] : [{ code: 'stock-missing', sha256: stockSha256 }];
}
