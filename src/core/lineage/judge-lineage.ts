import { splitFingerprint } from '../formats/facts/parse-facts';

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

export type LineageNote = 'renamed' | 'stale' | 'doubly patched' | 'wrong shelf' | 'stock not in the vault';

export interface Lineage {
  /** From the image back to the stock it comes from. */
  readonly chain: readonly KnownImage[];
  readonly notes: readonly { readonly note: LineageNote; readonly sentence: string }[];
  /** In one sentence: what it is, of which build, patched by what. */
  readonly sentence: string;
}

const buildIdOf = (fingerprint: string | null) =>
  fingerprint === null ? null : (splitFingerprint(fingerprint)?.id ?? null);

/** A build number anywhere in a name, such as `OPA2.261105.009`. */
const BUILD_IN_NAME = /[A-Z][A-Z0-9]{1,7}\.\d{6}\.\d{3}[A-Za-z0-9.]*/;

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
  const { fileName, installedFingerprint, wantedPartition, known } = context;
  const notes: Lineage['notes'][number][] = [];
  const chain = chainOf(image, known);
  const build = buildIdOf(image.fingerprint);
  const named =
    fileName === null ? null : (BUILD_IN_NAME.exec(fileName)?.[0].replace(/\.(img|zip|tar).*$/i, '') ?? null);
  if (named !== null && build !== null && named !== build)
    notes.push({ note: 'renamed', sentence: `Its name says ${named}, its content says ${build}.` });
  const partitionNamed =
    fileName === null
      ? null
      : (/(init_boot|vendor_boot|recovery|vbmeta|boot)/.exec(fileName.toLowerCase())?.[1] ?? null);
  if (partitionNamed !== null && partitionNamed !== image.partition)
    notes.push({
      note: 'renamed',
      sentence: `Its name says ${partitionNamed}, its content is an image of ${image.partition}.`,
    });
  if (wantedPartition !== null && image.partition !== wantedPartition && image.role === 'patched')
    notes.push({
      note: 'wrong shelf',
      sentence: `It is for ${image.partition}, and root sits in ${wantedPartition}.`,
    });
  const [own, installed] = [
    image.fingerprint ? splitFingerprint(image.fingerprint) : null,
    installedFingerprint ? splitFingerprint(installedFingerprint) : null,
  ];
  if (own && installed && (own.device !== installed.device || own.product !== installed.product))
    notes.push({
      note: 'wrong shelf',
      sentence: `It is of ${own.product} (${own.device}), and this handset is ${installed.product} (${installed.device}).`,
    });
  else if (own && installed && image.fingerprint !== installedFingerprint)
    notes.push({ note: 'stale', sentence: `It is of ${own.id}, and ${installed.id} is installed.` });
  const stock = chain[1];
  if (image.role === 'patched' && stock?.role === 'patched')
    notes.push({
      note: 'doubly patched',
      sentence: `It was patched from an image that ${stock.kit ?? 'a kit'} had patched already.`,
    });
  if (image.role === 'patched' && image.stockSha256 !== null && !stock)
    notes.push({
      note: 'stock not in the vault',
      sentence: `Its stock image ${image.stockSha256.slice(0, 8)}… is not in the vault.`,
    });
  return { chain, notes, sentence: sentenceOf(image, build, stock) };
}

function sentenceOf(image: KnownImage, build: string | null, stock: KnownImage | undefined): string {
  const of = build === null ? 'a build it does not name' : build;
  if (image.role === 'patched') {
    const from = stock
      ? `from the ${stock.role} image ${stock.sha256.slice(0, 8)}…`
      : image.stockSha256
        ? `from ${image.stockSha256.slice(0, 8)}…`
        : 'from an image it does not name';
    return `${image.partition} of ${of}, patched by ${image.kit ?? 'a kit it does not name'} ${from}.`;
  }
  return image.role === 'unknown'
    ? `${image.partition} of ${of}; nothing vouches for it as stock.`
    : `${image.role} ${image.partition} of ${of}.`;
}
