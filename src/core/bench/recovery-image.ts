import type { Bench, KeptImage, KeptRecovery } from './bench';
import { rootImageOver, stockImageOf } from './root-image';
import { splitFingerprint } from '../formats/facts/parse-facts';

/* Recoveries that share their partition: which image of the vault holds one, and what was patched over it. */

/**
 * The stock image of a build with a recovery in it, made and proved here.
 * @param recovery hash of the recovery's own image; null for whichever
 */
export function rebuiltRecoveryOf(
  bench: Pick<Bench, 'images'>,
  home: string | null,
  build: string,
  recovery: string | null,
): KeptImage | null {
  const stock = stockImageOf(bench, home, build);
  return (
    (stock &&
      bench.images.find(
        ({ stockSha256, recoverySha256 }) =>
          recoverySha256 !== null &&
          stockSha256 === stock.sha256 &&
          (recovery === null || recoverySha256 === recovery),
      )) ??
    null
  );
}

/** Root's image over one that holds a recovery, where both live in one ramdisk. */
export function patchedWithRecoveryOf(
  bench: Pick<Bench, 'images'>,
  partition: string | null,
  build: string,
  recovery: string | null,
): KeptImage | null {
  const rebuilt = rebuiltRecoveryOf(bench, partition, build, recovery);
  return rebuilt && rootImageOver(bench, partition, build, rebuilt);
}

/** Whether an image holds a recovery that was put into it here, or was patched over one that does. */
export function holdsRecovery({ images }: Pick<Bench, 'images'>, sha256: string | null): boolean {
  const image = images.find((one) => one.sha256 === sha256);
  if (!image) return false;
  return (
    image.recoverySha256 !== null ||
    images.some(({ sha256: one, recoverySha256 }) => one === image.stockSha256 && recoverySha256 !== null)
  );
}

/** Recoveries of the shelf that are for the handset that a stock image is of, and lie in the vault. */
export function recoveriesForImage(
  { images, recoveries }: Pick<Bench, 'images' | 'recoveries'>,
  { role, fingerprint }: Pick<KeptImage, 'role' | 'fingerprint'>,
): (KeptRecovery & { readonly sha256: string })[] {
  const device = fingerprint === null ? null : (splitFingerprint(fingerprint)?.device ?? null);
  if (role !== 'stock' || device === null) return [];
  return recoveries.flatMap((recovery) => {
    const { sha256, devices } = recovery;
    return sha256 !== null && devices.includes(device) && images.some((image) => image.sha256 === sha256)
      ? [{ ...recovery, sha256 }]
      : [];
  });
}
