import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { toEternoError } from '@/core/errors';
import type { Ports } from '@/core/ports';
import type { CodecThread, CodecThreadApi, PooledCodecs } from '../any/codec-pool';
import { pooledCodecs } from '../any/codec-pool';
import { nodePorts } from './node-ports';

const MOST_THREADS = 4;
/** A thread's own objects are few and small; its buffers lie elsewhere. */
const YOUNG_MIB = 4;

function startThread(): CodecThread {
  const worker = new Worker(new URL('./codec-thread-start.mjs', import.meta.url), {
    resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MIB },
  });
  const broken = new Promise<never>((_, reject) => {
    worker.once('error', (thrown) => reject(toEternoError(thrown)));
  });
  worker.unref();
  return {
    api: wrap<CodecThreadApi>(nodeEndpoint(worker)) as CodecThreadApi,
    broken,
    busy: (working: boolean) => (working ? worker.ref() : worker.unref()),
  };
}

/**
 * Core's ports in Node with the codecs spread over the processor's cores; for the command, whose process ends
 * with its work.
 */
export const pooledPorts: Omit<Ports, 'codecs'> & { readonly codecs: PooledCodecs } = {
  ...nodePorts,
  codecs: pooledCodecs(nodePorts.codecs, Math.min(MOST_THREADS, availableParallelism()), startThread),
};
