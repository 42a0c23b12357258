import { createCodecs } from '@/platform/any/codecs';
import { brotli } from './brotli';
import { loadXzModule } from './xz-module';

/** The codecs as Node provides them; alone, so that a thread that only packs and unpacks holds nothing else. */
export const nodeCodecs = createCodecs({ loadXzModule, brotli });
