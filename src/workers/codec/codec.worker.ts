import { expose } from 'comlink';
import { codecThreadApi } from '@/platform/any/codec-pool';
import { browserPorts } from '@/platform/browser/browser-ports';

/* A thread that packs and unpacks for the other workers. */

expose(codecThreadApi(browserPorts.codecs));
