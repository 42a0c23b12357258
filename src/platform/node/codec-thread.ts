import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { codecThreadApi } from '../any/codec-pool';
import { nodeCodecs } from './node-codecs';

/* A thread that packs and unpacks for `pooledPorts`. */

expose(codecThreadApi(nodeCodecs), nodeEndpoint(parentPort!));
