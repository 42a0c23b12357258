import { expose } from 'comlink';
import { outcome } from '@/contracts/outcome';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import type { PatchWorkerApi } from './protocol';

const api: PatchWorkerApi = {
  patch: (stock, kitFile, { avb, gzipInstead, options }, onProgress) =>
    outcome(async () => {
      const { kit } = await readKit(blobSource(kitFile, 'kit'), pooledPorts);
      const { bytes, partition, ...patched } = await patchImage(
        blobSource(stock, 'stock image'),
        kit,
        pooledPorts,
        { avb: { mode: avb }, gzipInstead, chosen: options },
        { onProgress },
      );
      return { ...patched, image: new Blob([bytes]) };
    }),
};

expose(api);
