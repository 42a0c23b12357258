import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { codecThreadApi } from '../any/codec-pool';
import { nodePorts } from './node-ports';

/* A thread that packs and unpacks for `pooledPorts`. */

expose(codecThreadApi(nodePorts.codecs), nodeEndpoint(parentPort!));
