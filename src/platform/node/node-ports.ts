import type { Ports } from '@/core/ports';
import { createCodecs } from '@/platform/any/codecs';
import { openZip } from '@/platform/any/open-zip';
import { readXml } from '@/platform/any/read-xml';
import { loadXzModule } from './xz-module';
import { brotli } from './brotli';
import { nodeDigests } from './node-digests';

/** Core's ports as Node provides them. */
export const nodePorts: Ports = {
  digests: nodeDigests,
  codecs: createCodecs({ loadXzModule, brotli }),
  openZip,
  readXml,
};
