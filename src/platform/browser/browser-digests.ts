import { createMD5, createSHA1, createSHA256, createSHA512 } from 'hash-wasm';
import type { Digests } from '@/core/bytes/digest';

const MAKERS = { md5: createMD5, sha1: createSHA1, sha256: createSHA256, sha512: createSHA512 } as const;

export const browserDigests: Digests = {
  async create(name) {
    const hasher = await MAKERS[name]();
    hasher.init();
    return { update: (bytes) => void hasher.update(bytes), finish: () => new Uint8Array(hasher.digest('binary')) };
  },
};
