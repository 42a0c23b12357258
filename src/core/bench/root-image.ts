import type { Bench, KeptImage } from './bench';

/* Which image of the vault is written as root's, and how it is known to be one. */

/** Proved here from stock image and kit; judged against the stock image; or trusted, and compared. */
export type RootImageBy = 'proof' | 'judgement' | 'trust';

/** How an image is known to be root's of a stock image; null where it is not. */
export function rootImageBy(
  { role, proof, stockSha256, judged, trust }: KeptImage,
  stock: Pick<KeptImage, 'sha256'> | null,
): RootImageBy | null {
  if (stock === null || role === 'stock') return null;
  if (role === 'patched' && proof !== null) return stockSha256 === stock.sha256 ? 'proof' : null;
  if (judged?.stockSha256 !== stock.sha256 || judged.belongs !== 'yes' || judged.times > 1) return null;
  if (judged.times === 1 && judged.unexpected.length === 0) return 'judgement';
  return trust === null ? null : 'trust';
}

const ORDER: readonly RootImageBy[] = ['proof', 'judgement', 'trust'];

/** The stock image of a build for a partition. */
export const stockImageOf = (
  { images }: Pick<Bench, 'images'>,
  partition: string | null,
  build: string,
): KeptImage | null =>
  images.find(
    (image) => image.role === 'stock' && image.partition === partition && image.fingerprint === build,
  ) ?? null;

/** Root's image of a build whose stock image is in the vault too; the best known where there are several. */
export function rootImageOf(
  bench: Pick<Bench, 'images'>,
  partition: string | null,
  build: string,
): KeptImage | null {
  return rootImageOver(bench, partition, build, stockImageOf(bench, partition, build));
}

/** The same over one image: stock, or stock with a recovery in it. */
export function rootImageOver(
  { images }: Pick<Bench, 'images'>,
  partition: string | null,
  build: string,
  stock: Pick<KeptImage, 'sha256'> | null,
): KeptImage | null {
  const found = images.flatMap((image) => {
    const by =
      image.partition === partition && image.fingerprint === build ? rootImageBy(image, stock) : null;
    return by === null ? [] : [{ image, rank: ORDER.indexOf(by) }];
  });
  return found.sort((a, b) => a.rank - b.rank)[0]?.image ?? null;
}
