import { createPrivateKey, createPublicKey, createSign } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { EternoError } from '@/core/errors';
import type { SigningKey } from '@/core/formats/avb/rewrite';

const LONGEST_PEM_BYTES = 64 * 1024;

/**
 * A private RSA key in PEM form; it stays in this process and is never written anywhere.
 * @throws {EternoError} `key-invalid`, `not-found`
 */
export async function readSigningKey(path: string): Promise<SigningKey> {
  const file = basename(path);
  const pem = await readFile(path).catch((thrown: unknown) => {
    throw new EternoError('not-found', 'there is no such key', { file, cause: thrown });
  });
  const invalid = (message: string, cause?: unknown) =>
    new EternoError('key-invalid', message, { file, cause });
  if (pem.length > LONGEST_PEM_BYTES) throw invalid('the file is too long for a key');
  let key;
  try {
    key = createPrivateKey(pem);
  } catch (thrown) {
    throw invalid('this is no private key in PEM form without a pass phrase', thrown);
  }
  const { n, e } = createPublicKey(key).export({ format: 'jwk' });
  if (key.asymmetricKeyType !== 'rsa' || typeof n !== 'string')
    throw invalid(`a key of the kind ${key.asymmetricKeyType}; an RSA key is needed`);
  const modulus = new Uint8Array(Buffer.from(n, 'base64url'));
  const bits = modulus.length * 8;
  if (bits !== 2048 && bits !== 4096) throw invalid(`an RSA key of ${bits} bits; 2048 and 4096 can be used`);
  if (e !== 'AQAB') throw invalid('the key has another public exponent than 65537');
  const used = key;
  return {
    bits,
    modulus,
    async sign(...parts) {
      const signer = createSign('sha256');
      for (const part of parts) signer.update(part);
      return new Uint8Array(signer.sign(used));
    },
  };
}
