import type { Digests } from './bytes/digest';
import type { Codecs } from './codecs/codec';
import type { ReadXml } from './formats/flash-list/parse-flash-list';
import type { OpenZip } from './formats/zip/zip-archive';

/** What core needs from the platform; the browser and Node each hand in their own. */
export interface Ports {
  readonly digests: Digests;
  readonly codecs: Codecs;
  readonly openZip: OpenZip;
  readonly readXml: ReadXml;
}

/** For calls that take a while. */
export interface Watch {
  readonly signal?: AbortSignal;
  readonly onProgress?: (progress: Progress) => void;
}

export interface Progress {
  readonly phase: string;
  readonly doneBytes: number;
  readonly totalBytes: number;
}
