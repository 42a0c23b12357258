import { wrap } from 'comlink';
import { EternoError } from '@/core/errors';
import type { Ports } from '@/core/ports';
import type { CodecThread, CodecThreadApi, PooledCodecs } from '@/platform/any/codec-pool';
import { pooledCodecs } from '@/platform/any/codec-pool';
import { browserPorts } from '@/platform/browser/browser-ports';

const MOST_THREADS = 4;

function startThread(): CodecThread {
  const worker = new Worker(new URL('./codec.worker.ts', import.meta.url), { type: 'module' });
  const broken = new Promise<never>((_, reject) => {
    worker.onerror = (event) => reject(new EternoError('internal', `a worker broke down: ${event.message}`));
  });
  return { api: wrap<CodecThreadApi>(worker) as CodecThreadApi, broken, busy: () => undefined };
}

/**
 * Core's ports in a worker with the codecs spread over workers of their own; they end with the worker that
 * started them.
 */
export const pooledPorts: Omit<Ports, 'codecs'> & { readonly codecs: PooledCodecs } = {
  ...browserPorts,
  codecs: pooledCodecs(
    browserPorts.codecs,
    Math.max(1, Math.min(MOST_THREADS, navigator.hardwareConcurrency)),
    startThread,
  ),
};
