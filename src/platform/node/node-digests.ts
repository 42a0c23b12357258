import { createHash } from 'node:crypto';
import type { Digests } from '@/core/bytes/digest';

export const nodeDigests: Digests = {
  async create(name) {
    const hash = createHash(name);
    return { update: (bytes) => void hash.update(bytes), finish: () => new Uint8Array(hash.digest()) };
  },
};
