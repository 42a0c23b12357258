import { randomBytes } from 'node:crypto';
import { storeImage } from '@/server/services/image-service';
import { FINGERPRINT, stockImage } from '../fixtures/images';
import { sha256 } from '../fixtures/server-world';

/*
 * A child of the vault test: keeps images through the vault's own service until it is killed, and says each
 * hash once it is kept.
 */

/** Most of the time goes into the file, so that most kills come in the middle of it. */
async function* slowly(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += 16_384) {
    yield bytes.subarray(at, at + 16_384);
    await new Promise((resolve) => setTimeout(resolve, 2));
  }
}
// one image, each time with another end: what lies behind its sections is the maker's, and is hashed with it
const image = await stockImage({ fingerprint: FINGERPRINT, footer: false, partitionBytes: 192 * 1024 });
for (;;) {
  const bytes = image.slice();
  bytes.set(randomBytes(32), bytes.length - 32);
  const hash = sha256(bytes);
  await storeImage(hash, slowly(bytes), {
    from: 'package',
    package: 'hill.zip',
    partition: 'init_boot',
    verified: 'yes',
  });
  process.stdout.write(`${hash}\n`);
}
