import { expose, transfer } from 'comlink';
import { outcome } from '@/contracts/outcome';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import type { PatchWorkerApi } from './protocol';

const api: PatchWorkerApi = {
  async patch(stock, kitFile, onProgress) {
    const result = await outcome(async () => {
      const { kit } = await readKit(blobSource(kitFile, 'kit'), pooledPorts);
      const { bytes, partition, ...patched } = await patchImage(blobSource(stock, 'stock image'), kit, pooledPorts, {}, { onProgress });
      return { ...patched, bytes: bytes.buffer };
    });
    return result.ok ? transfer(result, [result.value.bytes]) : result;
  },
};

expose(api);
