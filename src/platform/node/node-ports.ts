import type { Ports } from '@/core/ports';
import { openZip } from '@/platform/any/open-zip';
import { readXml } from '@/platform/any/read-xml';
import { nodeCodecs } from './node-codecs';
import { nodeDigests } from './node-digests';

/** Core's ports as Node provides them. */
export const nodePorts: Ports = {
  digests: nodeDigests,
  codecs: nodeCodecs,
  openZip,
  readXml,
};
