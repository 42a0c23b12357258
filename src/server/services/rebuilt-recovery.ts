import 'server-only';
import type { Bench } from '@/core/bench/bench';
import { recoveriesForImage } from '@/core/bench/recovery-image';
import { EternoError } from '@/core/errors';
import { putRecovery } from '@/core/patch/put-recovery';
import { nodePorts } from '@/platform/node/node-ports';
import { openProved } from '../vault/vault';
import type { StoredImage } from './image-service';
import { storeRebuilt } from './image-service';
import { readBench } from './bench-reading';
import { oneAtATime } from './one-at-a-time';
import { onePiece } from './streams';

/*
 * A recovery of the person's own is put into a stock image that it shares with other things: made, proved and
 * kept by the server.
 */

/**
 * @param stock hash of the stock boot or vendor_boot of a build, in the vault
 * @param recovery hash of a recovery on the shelf
 * @throws {EternoError} `not-found` where one of them is not there, `refused` where the one is no stock image or
 *   the other is for another handset, and of `putRecovery`; nothing is kept then
 */
export async function putIntoStock(stock: string, recovery: string): Promise<StoredImage> {
  const bench = await readBench();
  needStock(bench, stock, recovery);
  // unpacked both are many times as large
  return oneAtATime('look into an image', () => make(stock, recovery)).then(({ made, origin }) =>
    storeRebuilt(made.sha256, onePiece(made.bytes), origin),
  );
}

function needStock(bench: Bench, stock: string, recovery: string): void {
  const image = bench.images.find(({ sha256 }) => sha256 === stock);
  if (!image) throw new EternoError('not-found', 'This image is not in the vault.');
  if (image.role !== 'stock')
    throw new EternoError(
      'refused',
      'A recovery goes into a stock image only, and this one was changed before.',
    );
  if (!recoveriesForImage(bench, image).some(({ sha256 }) => sha256 === recovery))
    throw new EternoError(
      'refused',
      'This recovery is not on the shelf for the handset that this image is of.',
    );
}

async function make(stock: string, recovery: string) {
  const [into, from] = [await openProved('images', stock), await openProved('images', recovery)];
  try {
    const made = await putRecovery(into, from, nodePorts);
    const { partition, proof } = made;
    return { made, origin: { from: 'rebuilt', stock, recovery, partition, proof } as const };
  } finally {
    await into.close();
    await from.close();
  }
}
