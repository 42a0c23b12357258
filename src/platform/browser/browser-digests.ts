import type { IHasher } from 'hash-wasm';
import { createMD5, createSHA1, createSHA256, createSHA512 } from 'hash-wasm';
import type { DigestName, Digests } from '@/core/bytes/digest';

const MAKERS = { md5: createMD5, sha1: createSHA1, sha256: createSHA256, sha512: createSHA512 } as const;
/**
 * Hashers that have done their work: each is a WebAssembly instance, too dear to be made for every small
 * file.
 */
const idle: Record<DigestName, IHasher[]> = { md5: [], sha1: [], sha256: [], sha512: [] };

/** The browser's own, on a thread of its own; it has no MD5. */
const OWN: Readonly<Partial<Record<DigestName, string>>> = {
  sha1: 'SHA-1',
  sha256: 'SHA-256',
  sha512: 'SHA-512',
};

export const browserDigests: Digests = {
  whole(name, bytes) {
    const own = OWN[name];
    return own === undefined
      ? null
      : crypto.subtle.digest(own, bytes).then((digest) => new Uint8Array(digest));
  },
  async create(name) {
    const hasher = idle[name].pop() ?? (await MAKERS[name]());
    hasher.init();
    return {
      update: (bytes) => void hasher.update(bytes),
      finish() {
        const digest = new Uint8Array(hasher.digest('binary'));
        idle[name].push(hasher);
        return digest;
      },
    };
  },
};
