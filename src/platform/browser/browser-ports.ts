import type { Ports } from '@/core/ports';
import { createCodecs } from '@/platform/any/codecs';
import { openZip } from '@/platform/any/open-zip';
import { readXml } from '@/platform/any/read-xml';
import { brotli } from './brotli';
import { browserDigests } from './browser-digests';

/** Core's ports as a browser's worker provides them. */
export const browserPorts: Ports = {
  digests: browserDigests,
  codecs: createCodecs({ brotli }),
  openZip,
  readXml,
};
