import { randomBytes } from 'node:crypto';
import { putInVault } from '@/server/vault/vault';
import { sha256 } from '../fixtures/server-world';

/* A child of the vault test: keeps files until it is killed, and says each hash once it is kept. */

async function* slowly(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += 4096) {
    yield bytes.subarray(at, at + 4096);
    if (at % 32_768 === 0) await new Promise((resolve) => setImmediate(resolve));
  }
}
for (;;) {
  const bytes = new Uint8Array(randomBytes(200_000));
  const hash = sha256(bytes);
  await putInVault('images', hash, slowly(bytes));
  process.stdout.write(`${hash}\n`);
}
