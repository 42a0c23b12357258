import { afterEach, beforeEach, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readAvbFooter } from '@/core/formats/avb/reader';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { findImage } from '@/server/repositories/image-repository';
import { storeImage } from '@/server/services/image-service';
import { entry, kitZip, stockImage } from '../fixtures/images';
import { freshServer, pieces, sha256 } from '../fixtures/server-world';

/* Images that do not tell whether they are of init_boot or of recovery. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const FROM_PACKAGE = { from: 'package', package: 'a.zip', verified: 'yes', partition: 'init_boot' } as const;

/** A patched image as other apps leave it: without the verified-boot data behind its content. */
async function cutPatched(stock: Uint8Array) {
  const kit = (await readKit(memorySource(await kitZip()), nodePorts)).kit;
  const { bytes } = await patchImage(memorySource(stock, 'stock'), kit, nodePorts);
  const { footer } = (await readAvbFooter(memorySource(bytes)))!;
  return bytes.slice(0, footer!.originalImageSize);
}
const keepFile = (bytes: Uint8Array) => storeImage(sha256(bytes), pieces(bytes), { from: 'file' });

it('are kept as either, and known once the stock image they come from is there', async () => {
  const stock = await stockImage();
  const cut = await cutPatched(stock);
  await keepFile(cut);
  expect((await findImage(sha256(cut)))!.partition).toBe('init_boot or recovery');
  await storeImage(sha256(stock), pieces(stock), FROM_PACKAGE);
  expect(await findImage(sha256(cut))).toMatchObject({
    partition: 'init_boot',
    role: 'patched',
    stockSha256: sha256(stock),
    judged: { belongs: 'yes', times: 1 },
  });
});
it('are known at once where the stock image is there before', async () => {
  const stock = await stockImage();
  await storeImage(sha256(stock), pieces(stock), FROM_PACKAGE);
  const cut = await cutPatched(stock);
  await keepFile(cut);
  expect((await findImage(sha256(cut)))!.partition).toBe('init_boot');
});
it('are recoveries where a recovery’s program lies in them', async () => {
  const recovery = await stockImage({
    footer: false,
    entries: [entry('system/bin/recovery', 'program', { mode: 0o100755 })],
  });
  await keepFile(recovery);
  expect((await findImage(sha256(recovery)))!.partition).toBe('recovery');
});
